/** Files dropped on one page that another page reads. */
export const waitingFiles: File[] = []
