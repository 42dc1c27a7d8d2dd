import { useMemo } from 'react'
import { Link } from 'react-router'
import type { Shape } from '../../api/client'
import { Ribbon } from '../../ribbon/Ribbon'
import { Place } from '../../shared/Place'
import { versusPath } from '../../shared/paths'
import { useWidth } from '../../ui/useWidth'
import { Told } from './Told'
import type { Finding } from './useFinding'

type Block = Finding['draft']['blocks'][number]

const HEIGHT = 40
const GRID = 'grid grid-cols-[8.5rem_minmax(0,1fr)_4.5rem_minmax(0,21rem)] items-start gap-x-3 max-sm:grid-cols-[minmax(0,1fr)_4.5rem]'

/** For each tier of phone: its chargers as ribbons on one scale, places as ranges, a verdict of a few words. */
export function Tiers({ finding }: { finding: Finding }) {
  const { blocks } = finding.draft
  const ribbons = useMemo(() => new Map(finding.runs.map((r) => [r.id, r.ribbon])), [finding.runs])
  const [shown, alone] = useMemo(() => [blocks.filter((b) => b.rows.length > 0), blocks.filter((b) => b.rows.length === 0)], [blocks])
  const frame = useMemo(() => {
    const drawn = shown.flatMap((b) => b.rows.map((r) => ribbons.get(r.runs[0] ?? '')))
    return {
      minutes: Math.max(30, ...drawn.map((d) => d?.minutes ?? 0)),
      watts: Math.max(10, ...drawn.flatMap((d) => d?.watts.map((w) => w ?? 0) ?? [])),
    }
  }, [shown, ribbons])
  return (
    <section aria-label="chargers by phone">
      {shown.map((block) => (
        <OnePhone key={`${block.phone} ${block.where} ${block.rows[0]?.runs[0] ?? ''}`} block={block} ribbons={ribbons} {...frame} />
      ))}
      {alone.length > 0 && (
        <details className="border-base-300 border-b py-1 text-sm" open={shown.length === 0}>
          <summary className="soft cursor-pointer">Runs that nothing compares with: {alone.length}</summary>
          {alone.map((b) => (
            <p key={`${b.phone} ${b.where} ${b.alone.join()}`} className="py-0.5">
              <b>{b.phone}</b>
              {b.where && `, ${b.where}`}: {b.alone.length > 0 ? `only ${b.alone.join(', ')}` : 'nothing that covers the percentages asked for'}
            </p>
          ))}
        </details>
      )}
    </section>
  )
}

interface OneProps {
  block: Block
  ribbons: Map<string, Shape['RibbonDocument'] | null>
  minutes: number
  watts: number
}

function OnePhone({ block, ribbons, minutes, watts }: OneProps) {
  const [column, width] = useWidth()
  const window = block.window ? { start: block.window[0] ?? 0, end: block.window[1] ?? 100 } : null
  const runs = block.rows.flatMap((r) => r.runs)
  return (
    <div className="border-base-300 border-b py-2">
      <div className="mb-1 flex flex-wrap items-baseline gap-x-3">
        <h3 className="font-semibold">{block.tier || block.phone}</h3>
        <span className="soft text-xs">
          {block.tier && `${block.phone}, `}
          {runs.length} runs{block.where && `, ${block.where}`}
          {window && `, ${String(window.start)} to ${String(window.end)} %`}
          {block.wired && `, by wire ${block.wired}`}
        </span>
        <Link className="soft ml-auto text-xs underline underline-offset-2" to={versusPath(runs, window)}>
          compare in Versus
        </Link>
      </div>
      {block.rows.map((row, n) => {
        const data = ribbons.get(row.runs[0] ?? '')
        return (
          <div key={row.label} className={`${GRID} py-0.5`}>
            <Link className="pt-1 text-sm hover:underline max-sm:col-span-1" to={`/runs/${row.runs[0] ?? ''}`}>
              {row.label}
            </Link>
            <div ref={n === 0 ? column : undefined} className="min-w-0 max-sm:order-last max-sm:col-span-2">
              {data && width > 0 && (
                <Ribbon data={data} width={width} height={HEIGHT} minutes={minutes} fullWatts={watts} right={26} label={`${row.label} on ${block.phone}: ${row.verdict.words.replaceAll(/[[\]*]/g, '')}`} />
              )}
            </div>
            <span className="reading pt-1 text-sm">
              <Place text={row.place} />
            </span>
            <Told sentence={row.verdict} className="text-sm max-sm:order-last max-sm:col-span-2" />
          </div>
        )
      })}
      <details className="mt-1 text-sm">
        <summary className="soft cursor-pointer text-xs">Best for …</summary>
        {block.best.map((s) => (
          <Told key={s.key} sentence={s} className="py-0.5" />
        ))}
      </details>
    </div>
  )
}
