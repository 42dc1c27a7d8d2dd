/** A place; a range on two lines. */
export function Place({ text }: { text: string }) {
  const [first, of] = text.split(' of ')
  if (of === undefined) return text
  return (
    <span className="block font-sans text-xs leading-tight font-normal" title={`${text}: too close to tell which`}>
      <span className="whitespace-nowrap">{first}</span>
      <span className="soft block">of {of}</span>
    </span>
  )
}
