/** The zone of whoever looks: a finding has no place of its own. */
export const ZONE = Intl.DateTimeFormat().resolvedOptions().timeZone
