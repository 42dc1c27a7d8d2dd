interface Props {
  only: boolean
  onOnly: (only: boolean) => void
}

/** Leaves out what the simulator made. */
export function MeasuredOnly({ only, onOnly }: Props) {
  return (
    <label className="flex items-center gap-2 text-sm whitespace-nowrap">
      <input
        type="checkbox"
        className="checkbox checkbox-sm"
        checked={only}
        onChange={(e) => {
          onOnly(e.target.checked)
        }}
      />
      measured only
    </label>
  )
}
