interface Props {
  open?: boolean
  /** What it is the working of, where a row does not say so. */
  of?: string
  onClick: () => void
}

/** One small sign a row: how is this worked out? */
export function HowSign({ open, of, onClick }: Props) {
  const text = 'how is this worked out?'
  return (
    <button
      type="button"
      className={`reading reach border-base-300 hover:border-base-content inline-grid h-5 w-5 shrink-0 cursor-pointer place-items-center rounded-full border text-xs leading-none ${open ? 'bg-neutral text-neutral-content' : ''}`}
      aria-expanded={open}
      aria-label={of ? `${of}: ${text}` : text}
      title={text}
      onClick={onClick}
    >
      =
    </button>
  )
}
