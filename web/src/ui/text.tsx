/** A sentence that begins one: its first letter large. */
export const begun = (text: string) => `${text.charAt(0).toUpperCase()}${text.slice(1)}`

/** Text in which no figure is parted from its unit at the end of a line. */
export const unbroken = (text: string) => text.replaceAll(/(\d) (min|h|Wh?|mAh|V|A|K|%|s|°[CF])(?![a-z])/g, '$1\u00a0$2')

/** A sentence with its strong words, which stand between asterisks, in bold. */
export function Strong({ text }: { text: string }) {
  return text.split('*').map((part, i) => (i % 2 ? <b key={i}>{unbroken(part)}</b> : unbroken(part)))
}
