import { useVirtualizer } from '@tanstack/react-virtual'
import { useEffect, useRef, useState, type DragEvent } from 'react'
import { Link, useNavigate } from 'react-router'
import type { Shape } from '../../api/client'
import { useRunList } from '../../api/useRuns'
import { Legend } from '../../ribbon/Legend'
import { TimeRuler } from '../../charts/TimeAxis'
import { useWidth } from '../../ui/useWidth'
import { FilterField } from '../../ui/FilterField'
import { MeasuredOnly } from '../../ui/MeasuredOnly'
import { ProblemLine } from '../../ui/Problem'
import { useKeys } from '../../ui/useKeys'
import { useNarrow } from '../../ui/useNarrow'
import { SortButton, useOrder } from '../../ui/useSorted'
import { DeletedRuns } from './DeletedRuns'
import { waitingFiles } from './files'
import { COLUMNS, HEIGHTS, RIBBON_MOST, RunCard, RunRow, type RowHeight } from './RunRow'
import { RunsTabs } from './RunsTabs'
import { versusPath } from '../../shared/paths'

/** About as high as a card is: each is measured once it is drawn. */
const CARD_ABOUT = 140

type Order = 'when' | 'name' | 'length' | 'to80' | 'hottest' | 'reads'

/** Columns whose first click puts the most on top. */
const MOST_FIRST: ReadonlySet<Order> = new Set<Order>(['when', 'length', 'hottest'])

/** One run that is so much longer than most must not make slivers of the others. */
const FAR_LONGER = 3

/** Rows from the end of those that have come at which more are asked for. */
const AHEAD = 20

/** All runs as ribbons on one time scale; those of the simulator have a page of their own. */
export function RunsPage({ simulated = false }: { simulated?: boolean }) {
  const navigate = useNavigate()
  const [measuredOnly, setMeasuredOnly] = useState(true)
  const [filter, setFilter] = useState('')
  const [height, setHeight] = useState<RowHeight>('full')
  const [over, setOver] = useState(false)
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set())
  /** The row that the arrows stand on; it goes ahead of the focus, which waits for the row to be drawn. */
  const current = useRef(-1)
  const filterField = useRef<HTMLInputElement>(null)
  const list = useRef<HTMLDivElement>(null)
  const narrow = useNarrow()

  const sorted = useOrder<Order>('when', (key) => MOST_FIRST.has(key))
  const kind = simulated ? 'simulated' : measuredOnly ? 'measured' : 'all'
  const { rows: shown, scale, isPending, error, hasMore, more } = useRunList({ words: filter, kind, sort: sorted.order, down: sorted.down })
  const longest = Math.max(30, scale?.longest_min ?? 0)
  /** A scale on which most ribbons are wide: one that is longer ends in a break mark. */
  const usual = Math.max(30, 1.05 * (scale?.usual_min ?? 30))
  const minutes = narrow || longest > FAR_LONGER * usual ? Math.min(longest, usual) : longest
  const fullWatts = Math.max(10, scale?.most_w ?? 0)
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtual list is drawn here and handed to nobody
  const rows = useVirtualizer({
    count: shown.length + (hasMore ? 1 : 0),
    getScrollElement: () => list.current,
    estimateSize: () => (narrow ? CARD_ABOUT : HEIGHTS[height]),
    overscan: 6,
  })

  useEffect(() => {
    rows.measure()
  }, [rows, height, narrow])
  const last = rows.getVirtualItems().at(-1)?.index ?? 0
  useEffect(() => {
    if (last >= shown.length - AHEAD) more()
  })

  const dropped = (event: DragEvent) => {
    event.preventDefault()
    setOver(false)
    const files = [...event.dataTransfer.files]
    if (!files.length) return
    waitingFiles.push(...files)
    void navigate('/runs/read')
  }
  const move = (by: number) => {
    const next = Math.min(shown.length - 1, Math.max(0, current.current + by))
    current.current = next
    rows.scrollToIndex(next)
    requestAnimationFrame(() => list.current?.querySelector<HTMLElement>(`[data-row="${String(next)}"]`)?.focus())
  }
  const pick = (id: string) => {
    setPicked((was) => {
      const next = new Set(was)
      if (!next.delete(id)) next.add(id)
      return next
    })
  }
  const compare = () => {
    if (picked.size > 1) void navigate(versusPath([...picked]))
  }
  useKeys({
    x: () => {
      const run = shown[current.current]
      if (run) pick(run.id)
    },
    v: compare,
    f: () => filterField.current?.focus(),
    h: () => void navigate('/runs/heat'),
    ArrowDown: () => {
      move(1)
    },
    ArrowUp: () => {
      move(-1)
    },
  })

  return (
    <div
      className="flex h-full flex-col px-6 pt-4 max-sm:px-3"
      onDrop={dropped}
      onDragOver={(e) => {
        e.preventDefault()
        setOver(true)
      }}
      onDragLeave={(e) => {
        if (e.currentTarget === e.target) setOver(false)
      }}
      data-testid="runs"
    >
      <div className="flex items-center gap-3 pb-2 max-sm:flex-wrap">
        <RunsTabs shown={simulated ? '/runs/simulated' : '/runs'} />
        <span className="soft whitespace-nowrap" role="status">
          {scale && sizeText(scale)}
        </span>
        <DeletedRuns />
        {scale?.any && (
          <>
            <a className="btn btn-sm btn-outline border-base-300 ml-auto font-normal" href="/api/exports/runs.csv" download>
              CSV
            </a>
            <a className="btn btn-sm btn-outline border-base-300 font-normal" href="/api/exports/runs.xlsx" download>
              XLSX
            </a>
          </>
        )}
        {picked.size > 0 ? (
          <>
            <button
              className="btn btn-sm btn-ghost font-normal"
              onClick={() => {
                setPicked(new Set())
              }}
            >
              None
            </button>
            <button className="btn btn-primary btn-sm" disabled={picked.size < 2} onClick={compare}>
              {picked.size < 2 ? 'Compare: choose another' : `Compare ${String(picked.size)} runs`}
            </button>
          </>
        ) : (
          <button
            className={`btn btn-primary btn-sm ${scale?.any ? '' : 'ml-auto'}`}
            onClick={() => void navigate('/runs/read')}
          >
            Read a file
          </button>
        )}
      </div>
      {scale && scale.of > 0 && (
        <div className="flex flex-wrap items-center gap-x-4 gap-y-1 pb-2">
          <FilterField field={filterField} value={filter} onChange={setFilter} label="filter the runs" placeholder="filter: phone, charger, case …" />
          {!simulated && <MeasuredOnly only={measuredOnly} onOnly={setMeasuredOnly} />}
          <select
            className="select select-sm w-28 max-sm:hidden"
            aria-label="height of the rows"
            value={height}
            onChange={(e) => {
              setHeight(e.target.value as RowHeight)
            }}
          >
            <option value="full">tall rows</option>
            <option value="medium">medium</option>
            <option value="slim">slim</option>
          </select>
          <span className="grow max-sm:hidden" />
          <span className="max-sm:hidden">
            <Legend />
          </span>
        </div>
      )}
      {error && <ProblemLine error={error} />}
      {isPending && <p className="soft py-8">Reading the runs …</p>}
      {scale && simulated && scale.of === 0 && (
        <p className="py-8">
          No simulated run yet: build a chain on the{' '}
          <Link to="/shelf" className="underline underline-offset-2">
            Shelf
          </Link>{' '}
          and rehearse it.
        </p>
      )}
      {scale && !simulated && scale.any && scale.of === 0 && (
        <p className="soft py-8">No measured run yet. Simulated runs are under Simulated, short checks under Spot checks.</p>
      )}
      {scale && !scale.any && !simulated && (
        <div className="border-base-300 mt-6 max-w-xl rounded border border-dashed p-6">
          <p className="text-lg font-semibold">Drop what you have here to read your first run.</p>
          <p className="soft mt-1">
            A meter's log, a table of percentages, a sheet of many runs: the rest is worked out. Press{' '}
            <kbd className="reading">n</kbd> to choose a file, paste a table, or type what you noted.
          </p>
        </div>
      )}
      {scale && scale.of > 0 && (
        <>
          <div className={`soft border-base-300 grid items-end border-b pb-1 pl-6 text-xs max-sm:hidden ${COLUMNS}`}>
            <SortButton sorted={sorted} by="when" className="text-left">
              when
            </SortButton>
            <SortButton sorted={sorted} by="name" className="text-left">
              phone and chain
            </SortButton>
            <div className="flex gap-3">
              <Scale minutes={minutes} />
              <SortButton sorted={sorted} by="length" className="shrink-0">
                length
              </SortButton>
            </div>
            <SortButton sorted={sorted} by="to80" className="text-right">
              to 80 %
            </SortButton>
            <SortButton sorted={sorted} by="hottest" className="text-right">
              hottest
            </SortButton>
            <SortButton sorted={sorted} by="reads" className="text-left">
              reads as
            </SortButton>
          </div>
          {shown.length === 0 && <p className="soft py-8">No run matches “{filter}”. Press Esc in the filter to see all.</p>}
          <div
            ref={list}
            className="min-h-0 flex-1 overflow-auto"
            onFocus={(e) => {
              current.current = Number(e.target.dataset.row ?? -1)
            }}
          >
            <div role="list" aria-label="runs" style={{ height: rows.getTotalSize(), position: 'relative' }}>
              {rows.getVirtualItems().map((item) => {
                const run = shown[item.index]
                return (
                  run && (
                    <div
                      key={run.id}
                      role="listitem"
                      ref={narrow ? rows.measureElement : undefined}
                      data-index={item.index}
                      className="absolute inset-x-0 flex items-center"
                      style={{ height: narrow ? undefined : item.size, transform: `translateY(${String(item.start)}px)` }}
                    >
                      <label className="grid shrink-0 place-items-center max-sm:absolute max-sm:top-0 max-sm:right-0 max-sm:z-10 max-sm:size-11 sm:mr-2">
                        <input
                          type="checkbox"
                          className={narrow ? 'checkbox checkbox-sm' : 'checkbox checkbox-xs'}
                          tabIndex={-1}
                          checked={picked.has(run.id)}
                          aria-label={`choose ${run.label}`}
                          onChange={() => {
                            pick(run.id)
                          }}
                        />
                      </label>
                      {narrow ? (
                        <RunCard run={run} index={item.index} minutes={minutes} fullWatts={fullWatts} picked={picked.has(run.id)} />
                      ) : (
                        <RunRow run={run} index={item.index} height={height} minutes={minutes} fullWatts={fullWatts} picked={picked.has(run.id)} />
                      )}
                    </div>
                  )
                )
              })}
            </div>
          </div>
        </>
      )}
      {over && (
        <div className="bg-base-100/90 pointer-events-none fixed inset-0 z-40 grid place-items-center">
          <p className="border-base-content rounded border-2 border-dashed px-10 py-8 text-xl">
            Drop to see how its columns are understood
          </p>
        </div>
      )}
    </div>
  )
}

/** How many rows fit, of how many. */
function sizeText({ count, more, of }: Shape['ListScale']): string {
  if (count === of) return of.toLocaleString('en')
  return `${more ? 'more than ' : ''}${count.toLocaleString('en')} of ${of.toLocaleString('en')}`
}

function Scale({ minutes }: { minutes: number }) {
  const [box, width] = useWidth()
  return (
    <div ref={box} className="relative h-4 min-w-0 grow">
      {width > 0 && <TimeRuler to={minutes} most={9} x={(m) => ((m / minutes) * width * RIBBON_MOST) / 100} />}
    </div>
  )
}
