import { useState } from 'react'
import { Link, useLocation, useNavigate, useParams } from 'react-router'
import { useKit, type Kit } from '../../api/useKit'
import { useMethod } from '../../api/useMethod'
import { usePlan, usePlanChanges, usePreview } from '../../api/usePlans'
import type { Shape } from '../../api/client'
import { useSettled } from '../../api/useSettled'
import { ProblemLine } from '../../ui/Problem'
import { CardPicker } from './CardPicker'
import { asNewPlan, draftFrom, draftOf, type Draft } from './draft'
import { Matrix } from './Matrix'
import { OrderFields } from './OrderFields'
import { PreviewSays } from './PreviewSays'
import { WishFields } from './WishFields'

const WAIT_MS = 350

/** Making or changing a plan: question, method, matrix, order, hours; beside it what that can show. */
export function EditPlan() {
  const { id } = useParams()
  const kit = useKit()
  const method = useMethod()
  const plan = usePlan(id)
  const location = useLocation()
  const error = kit.error ?? method.error ?? plan.error
  if (error)
    return (
      <div className="p-6">
        <ProblemLine error={error} />
      </div>
    )
  const card = method.data?.cards[0]
  if (!kit.data || !method.data || !card || (id && !plan.data)) return <p className="soft p-6">Reading the shelf …</p>
  return <Editor key={id} id={id} first={plan.data ? draftOf(plan.data) : draftFrom(location.state, card)} kit={kit.data} method={method.data} />
}

interface Props {
  id: string | undefined
  first: Draft
  kit: Kit[]
  method: Shape['MethodShape']
}

function Editor({ id, first, kit, method }: Props) {
  const navigate = useNavigate()
  const changes = usePlanChanges()
  const [draft, setDraft] = useState(first)
  const wanted = useSettled(draft, WAIT_MS)
  const preview = usePreview(asNewPlan(wanted))
  const save = id ? changes.change : changes.add
  const done = { onSuccess: (plan: { id: string }) => void navigate(`/plan/${plan.id}`) }
  const submit = () => {
    if (id) changes.change.mutate({ id, ...asNewPlan(draft) }, done)
    else changes.add.mutate(asNewPlan(draft), done)
  }
  const refused = preview.data?.refused ?? ''
  const behind = wanted !== draft || preview.isFetching
  const phones = kit.filter((k) => k.kind === 'phone')
  return (
    <form
      className="flex h-full flex-col"
      onSubmit={(e) => {
        e.preventDefault()
        submit()
      }}
    >
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_348px] max-lg:block max-lg:overflow-auto">
        <div className="min-h-0 overflow-auto px-6 pt-4 pb-8 max-lg:overflow-visible max-sm:px-3">
          <label className="block">
            <span className="soft text-xs">the question</span>
            <input
              className="input input-lg w-full text-lg font-semibold"
              aria-label="the question"
              placeholder="Which bedside disc is fastest to 80 % on our three phones, and stays under 43 °C?"
              value={draft.question}
              maxLength={120}
              autoFocus={!id}
              onChange={(e) => {
                setDraft({ ...draft, question: e.target.value })
              }}
            />
          </label>
          <CardPicker draft={draft} onDraft={setDraft} method={method} />
          {phones.length === 0 ? (
            <p className="mt-4">
              A phone and a charger are needed.{' '}
              <Link className="underline underline-offset-2" to="/shelf/kit?add">
                Put them on the shelf first
              </Link>
              .
            </p>
          ) : (
            <Matrix draft={draft} onDraft={setDraft} kit={kit} factors={method.factors} cells={preview.data?.cells ?? []} />
          )}
          <OrderFields draft={draft} onDraft={setDraft} orders={method.orders} />
          <WishFields draft={draft} onDraft={setDraft} />
        </div>
        <aside aria-label="what this plan can show" className="border-base-300 min-h-0 overflow-auto border-l px-5 pt-4 pb-6 max-lg:overflow-visible max-lg:border-l-0">
          {preview.isError ? (
            <ProblemLine error={preview.error} />
          ) : (
            <PreviewSays preview={preview.data} draft={draft} behind={behind} />
          )}
        </aside>
      </div>
      <div className="border-base-300 bg-base-100 flex items-center gap-4 border-t px-6 py-2.5">
        <div className="grow text-sm" role="status">
          {save.isError ? (
            <ProblemLine error={save.error} />
          ) : save.isPending ? (
            <span className="soft">Scheduling …</span>
          ) : (
            <span className="soft">{refused || (preview.data ? `${String(preview.data.runs)} runs.` : 'Working it out …')}</span>
          )}
        </div>
        <Link to={id ? `/plan/${id}` : '/plan'} className="btn btn-sm btn-ghost font-normal">
          Back
        </Link>
        <button className="btn btn-primary btn-sm px-6" disabled={save.isPending || refused !== '' || preview.data?.runs === 0}>
          {id ? 'Change the plan' : 'Schedule it'}
        </button>
      </div>
    </form>
  )
}
