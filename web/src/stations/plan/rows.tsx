import type { ReactNode } from 'react'

/** A named row of things to choose from. */
export function Row({ text, children }: { text: string; children: ReactNode }) {
  return (
    <div className="mt-1.5 flex items-start gap-2 text-sm" role="group" aria-label={text}>
      <span className="soft w-16 shrink-0 pt-1">{text}</span>
      <span className="flex flex-wrap items-center gap-1.5">{children}</span>
    </div>
  )
}

/** One of them, chosen or not. */
export function Chip({ text, on, onClick }: { text: string; on: boolean; onClick: () => void }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      className={`btn btn-sm max-w-60 font-normal ${on ? 'btn-neutral' : 'btn-outline border-base-300'}`}
      onClick={onClick}
    >
      <span className="truncate">{text}</span>
    </button>
  )
}
