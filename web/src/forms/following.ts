const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b)

/**
 * A form that was filled from `from` and stands as `mine`, while `now` holds: what the hand did not change follows, what it changed stays.
 * So another window's change is neither written back nor written over what is typed, and what is typed while a form is being sent is kept.
 */
export function following<T extends object>(now: T, from: T, mine: T): T {
  const keys = new Set([...Object.keys(now), ...Object.keys(mine)]) as Set<keyof T>
  return Object.fromEntries([...keys].map((key) => [key, same(mine[key], from[key]) ? now[key] : mine[key]])) as T
}
