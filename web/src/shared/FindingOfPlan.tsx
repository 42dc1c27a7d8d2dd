import { useQuery } from '@tanstack/react-query'
import { useNavigate } from 'react-router'
import { queries } from '../api/queries'
import { useNewFinding } from '../api/useNewFinding'
import { useSettings } from '../reader/settings'
import { useSay } from '../ui/Undo'
import { asProblem, sayProblem } from '../api/client'

interface Props {
  plan: { id: string; question: string }
  className: string
}

/** One click from a plan to its finding: the one that is there, or a first draft. */
export function FindingOfPlan({ plan, className }: Props) {
  const navigate = useNavigate()
  const say = useSay()
  const { degrees } = useSettings()
  const list = useQuery(queries.findings())
  const make = useNewFinding()
  const there = list.data?.find((f) => f.plan === plan.id)
  const open = () => {
    if (there) {
      void navigate(`/findings/${there.id}`)
      return
    }
    make.mutate(
      { question: plan.question, plan: plan.id, audience: 'buyer', degrees },
      {
        onSuccess: (found) => void navigate(`/findings/${found.id}`),
        onError: (error) => {
          say({ text: sayProblem(asProblem(error)) })
        },
      },
    )
  }
  return (
    <button className={className} disabled={make.isPending || list.isPending} onClick={open}>
      {make.isPending ? 'Drafting …' : 'Finding'}
    </button>
  )
}
