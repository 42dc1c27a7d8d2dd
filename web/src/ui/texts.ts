/** A sentence that begins one: its first letter large. */
export const begun = (text: string) => `${text.charAt(0).toUpperCase()}${text.slice(1)}`
