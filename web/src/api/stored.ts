interface Kept {
  id: string
  at: string
}

/** Things on their way to the bench, each in this browser's storage under a key of its own until it has arrived, so that
 * several windows do not write over each other's, and a window that is opened later finds them. */
export class Stored<T extends Kept> {
  constructor(private readonly key: string) {}

  keep(thing: T) {
    try {
      localStorage.setItem(`${this.key}.${thing.id}`, JSON.stringify(thing))
    } catch {
      // A full storage keeps nothing; the thing is still on its way from here.
    }
  }

  forget(id: string) {
    localStorage.removeItem(`${this.key}.${id}`)
  }

  /** What an earlier window left, in the order of its making. */
  found(): T[] {
    const things: T[] = []
    for (const key of Object.keys(localStorage)) {
      if (!key.startsWith(`${this.key}.`)) continue
      try {
        things.push(JSON.parse(localStorage.getItem(key) ?? '') as T)
      } catch {
        localStorage.removeItem(key)
      }
    }
    return things.sort((a, b) => a.at.localeCompare(b.at))
  }
}
