/** Findings that say the same of many things, as one group. */
export interface Alike<T> {
  id: string
  first: T
  all: T[]
}
const FEWEST = 3 // fewer than so many stand one by one

/** In the order in which each kind comes first; `more` tells kinds of one code apart. */
export function inGroups<T extends { code: string }>(findings: readonly T[], more: (f: T) => string = () => ''): Alike<T>[] {
  const kinds = new Map<string, T[]>()
  for (const f of findings) {
    const id = `${f.code} ${more(f)}`
    kinds.set(id, [...(kinds.get(id) ?? []), f])
  }
  return [...kinds].flatMap(([id, all]) =>
    all.length >= FEWEST ? [{ id, first: all[0]!, all }] : all.map((f, i) => ({ id: `${id} ${i}`, first: f, all: [f] })),
  )
}
