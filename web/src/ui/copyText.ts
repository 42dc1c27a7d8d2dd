import { refused } from '../api/client'

/** Copies a text, also where the page came without TLS and the browser offers no clipboard. */
export async function copyText(text: string): Promise<void> {
  if ('clipboard' in navigator) {
    // eslint-disable-next-line no-restricted-properties
    await navigator.clipboard.writeText(text).catch(byMarking(text))
    return
  }
  byMarking(text)()
}

const byMarking = (text: string) => () => {
  const field = document.createElement('textarea')
  field.value = text
  // Inside an open pop-up, where there is one: what lies outside of it may not take the focus.
  const within = document.querySelector(':popover-open') ?? document.body
  within.append(field)
  field.select()
  // Deprecated, yet the only way there is without TLS.
  const copied = document.execCommand('copy')
  field.remove()
  if (!copied) throw refused('this browser does not let the page copy', 'mark the text and copy it yourself')
}
