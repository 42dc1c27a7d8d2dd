import { queries } from '../../api/queries'
import { useState } from 'react'
import { useMutation, useQuery } from '@tanstack/react-query'
import { Link, useNavigate, useSearchParams } from 'react-router'
import { benchApi } from '../../api/bench'
import { useKit, type Kit, type KitKind } from '../../api/useKit'
import { useMethod } from '../../api/useMethod'
import { useSlot } from '../../api/usePlans'
import { Figure } from '../../ui/Figure'
import { inCelsius } from '../../ui/format'
import { ProblemLine } from '../../ui/Problem'
import { useSettings } from '../../reader/settings'
import { momentAt } from '../../ui/times'
import { ChainFields } from './ChainFields'
import { Choice } from './Choice'
import { asLaneKind, PackFields, WhatIsTested, type LaneKind } from './PackFields'

const OF_THE_BENCH = 'that of the bench'
const STANDINS = ['1', '10', '60', '120']
const AIRFLOWS = ['still air', 'fan on the phone', "charger's own fan"]
const STATES = ['off', 'idle', 'in use']

/** Setting up a lane, once the shelf is read: what is typed ahead is not lost. */
export function SetUpLane() {
  const kit = useKit()
  const method = useMethod()
  const error = kit.error ?? method.error
  if (error)
    return (
      <div className="p-6">
        <ProblemLine error={error} />
      </div>
    )
  if (!kit.data || !method.data) return <p className="soft p-6">Reading the shelf …</p>
  return <LaneForm pieces={kit.data} cards={method.data.cards.map((c) => c.card.name)} />
}

/** A lane to be opened: a run of the plan by one click, or what it is on the spot; its instruments; stand-ins to try it. */
function LaneForm({ pieces, cards }: { pieces: Kit[]; cards: string[] }) {
  const navigate = useNavigate()
  const [search, setSearch] = useSearchParams()
  const { degrees } = useSettings()
  const slotId = search.get('slot')
  const slot = useSlot(slotId)
  const of = (...kinds: KitKind[]) => pieces.filter((k) => kinds.includes(k.kind))
  const [factors, setFactors] = useState<Record<string, string>>({ airflow: 'still air', phone_state: 'idle' })
  const [card, setCard] = useState('From ten to full')
  const [room, setRoom] = useState<number | null>(null)
  const [meter, setMeter] = useState<string | null>(null)
  const [probe, setProbe] = useState<string | null>(null)
  const [socket, setSocket] = useState('')
  const [sensor, setSensor] = useState<string | null>(null)
  const [practice, setPractice] = useState('')
  const [kind, setKind] = useState<LaneKind>(asLaneKind(search.get('kind')))
  const [pack, setPack] = useState(search.get('pack') ?? '')
  const [packMethod, setPackMethod] = useState(search.get('method') ?? '')
  const alone = kind !== 'charge' && !slotId
  const ready = slotId ?? (alone ? pack : factors.phone)
  const meters = of('meter').filter((k) => k.fields.stands !== 'socket')
  const sockets = of('meter').filter((k) => k.fields.stands === 'socket')
  const probes = of('probe').filter((k) => k.fields.measures !== 'room')
  // A room that is read by eye is typed; this is for one that tells by itself.
  const sensors = of('probe').filter((k) => k.fields.measures === 'room' && k.fields.address)
  const asked = (known: Kit[]) => known.find((k) => k.fields.address)?.label ?? ''
  const usedMeter = meter ?? asked(meters)
  const usedProbe = probe ?? asked(probes)
  const open = useMutation({
    mutationFn: () =>
      benchApi.open({
        slot: slotId,
        kind: slotId ? 'charge' : kind,
        pack,
        method: packMethod,
        factors: (alone ? {} : factors) as never,
        card,
        ambient_c: room === null ? null : Number(inCelsius(room, degrees).toFixed(2)),
        meter: practice ? '' : usedMeter,
        probe: practice ? '' : usedProbe,
        socket: practice ? '' : socket,
        room: practice ? '' : sensor === OF_THE_BENCH ? null : sensor,
        practice: practice ? Number(practice) : null,
        reports: true,
        survey: null,
        zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
      }),
    onSuccess: (lane) => void navigate(`/bench?lane=${lane.view.name}`),
  })
  const state = (name: string) => (text: string) => {
    setFactors({ ...factors, [name]: text })
  }
  return (
    <form
      className="max-w-4xl px-6 pt-4 pb-8"
      onSubmit={(e) => {
        e.preventDefault()
        open.mutate()
      }}
    >
      <div className="flex items-baseline gap-4">
        <h1 className="text-xl font-bold">Set up a lane</h1>
        <Link to="/bench" className="soft text-sm underline underline-offset-2">
          back to the bench
        </Link>
      </div>
      {slotId && slot.data ? (
        <p className="mt-3">
          For the plan “{slot.data.question}”: <b>{slot.data.label}</b>. Kit and method are those of the plan.{' '}
          <button
            type="button"
            className="underline underline-offset-2"
            onClick={() => {
              setSearch({})
            }}
          >
            another run
          </button>
        </p>
      ) : (
        <>
          <FromPlan
            onSlot={(id) => {
              setSearch({ slot: id })
            }}
          />
          <fieldset className="mt-4">
            <legend className="text-sm font-semibold">On the spot</legend>
            <WhatIsTested kind={kind} onKind={setKind} />
            {alone ? (
              <PackFields kind={kind} packs={of('pack').map((k) => k.label)} pack={pack} onPack={setPack} method={packMethod} onMethod={setPackMethod} />
            ) : (
            <div className="grid grid-cols-4 gap-x-4 gap-y-2 max-lg:grid-cols-2">
              <ChainFields pieces={pieces} factors={factors} onFactors={setFactors} autoFocus />
              <Choice text="airflow" value={factors.airflow} options={AIRFLOWS} onChoose={state('airflow')} />
              <Choice text="phone is" value={factors.phone_state} options={STATES} onChoose={state('phone_state')} />
              <Choice text="method" value={card} options={cards} onChoose={setCard} />
            </div>
            )}
          </fieldset>
        </>
      )}
      <fieldset className="mt-4">
        <legend className="text-sm font-semibold">Instruments</legend>
        <div className="flex flex-wrap items-end gap-x-4 gap-y-2 text-sm">
          <Choice
            text="meter"
            value={practice ? '' : usedMeter}
            options={meters.map((k) => k.label)}
            said={addressed(meters)}
            none="none: watts by hand, or pushed"
            onChoose={setMeter}
            disabled={practice !== ''}
          />
          <Choice
            text="probe"
            value={practice ? '' : usedProbe}
            options={probes.map((k) => k.label)}
            said={addressed(probes)}
            none="none: temperatures by hand"
            onChoose={setProbe}
            disabled={practice !== ''}
          />
          {sockets.length > 0 && (
            <Choice
              text="at the socket"
              value={practice ? '' : socket}
              options={sockets.map((k) => k.label)}
              said={addressed(sockets)}
              none="no meter there"
              onChoose={setSocket}
              disabled={practice !== ''}
            />
          )}
          {sensors.length > 0 && (
            <Choice
              text="room sensor, for all lanes"
              value={practice ? '' : (sensor ?? OF_THE_BENCH)}
              options={[OF_THE_BENCH, ...sensors.map((k) => k.label)]}
              said={addressed(sensors)}
              none="none: the room as typed"
              onChoose={setSensor}
              disabled={practice !== ''}
            />
          )}
          <Choice
            text="or practise with stand-ins"
            value={practice}
            options={STANDINS}
            said={Object.fromEntries(STANDINS.map((s) => [s, `${s} × as fast`]))}
            none="no"
            onChoose={setPractice}
          />
          <Figure
            text="room"
            unit={`°${degrees}`}
            value={room}
            low={-40}
            high={120}
            empty="–"
            onTyped={setRoom}
            onEmpty={() => {
              setRoom(null)
            }}
          />
        </div>
        {practice && <p className="soft mt-1 text-sm">Stand-ins play meter, probe and phone from a simulation; the run stays marked as simulated.</p>}
      </fieldset>
      <div className="mt-5 flex items-center gap-4">
        <button className="btn btn-primary" disabled={open.isPending || !ready}>
          Open the lane
        </button>
        <span className="soft text-sm">
          {open.isPending ? 'Working out what to expect …' : hint(ready, kind, alone)}
        </span>
      </div>
      {open.error && (
        <div className="mt-3">
          <ProblemLine error={open.error} />
        </div>
      )}
    </form>
  )
}

/** What is to be done before the lane is opened. */
function hint(ready: string | undefined, kind: LaneKind, alone: boolean): string {
  if (!ready) return alone ? 'choose a pack first' : 'choose a phone first'
  if (!alone) return 'Adapter and charger in, the phone not yet on it.'
  return kind === 'load' ? 'The meter between pack and load, the load not yet on.' : 'The meter between adapter and pack, the pack not yet on it.'
}

/** What stands behind a label: whether it answers over the network. */
const addressed = (pieces: Kit[]) => Object.fromEntries(pieces.map((k) => [k.label, k.fields.address ? `${k.label}, asked at ${k.fields.address}` : `${k.label}, read by hand`]))

/** Runs of the plan that can be started now: nothing of them is typed again. */
function FromPlan({ onSlot }: { onSlot: (id: string) => void }) {
  const next = useQuery(queries.nextSlots())
  const open = next.data ?? []
  if (open.length === 0) return null
  return (
    <fieldset className="mt-3">
      <legend className="text-sm font-semibold">From the plan</legend>
      <div className="flex flex-wrap gap-2">
        {open.map((s) => (
          <button
            key={s.slot}
            type="button"
            className="btn btn-sm btn-outline border-base-300 h-auto py-1 text-left font-normal"
            title={s.question}
            onClick={() => {
              onSlot(s.slot)
            }}
          >
            <span>
              <b className="font-semibold">{s.label}</b>
              <span className="soft block text-xs">{s.start ? momentAt(s.start, s.zone) : 'not scheduled'}</span>
            </span>
          </button>
        ))}
      </div>
    </fieldset>
  )
}
