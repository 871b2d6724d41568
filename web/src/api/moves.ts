// What one's own writes have made of the versions one has seen, and the order in which they go out.
// A write names the version it was made for; one's own writes meanwhile are no reason to refuse it,
// anybody else's are.

interface Trail {
  seen: Set<number>;
  at: number;
}

const trails = new Map<string, Trail>();

/**
 * A write of one's own has taken a thing (a draft, a policy in a draft) from one version to
 * another.
 */
export function moved(thing: string, from: number, to: number) {
  const trail = trails.get(thing);
  if (trail && (trail.at === from || trail.seen.has(from))) {
    trail.seen.add(from);
    trail.at = to;
  } else trails.set(thing, { seen: new Set([from]), at: to });
}

/** The version that a version one has seen has become by one's own writes alone. */
export function latest(thing: string, version: number): number {
  const trail = trails.get(thing);
  return trail?.seen.has(version) ? trail.at : version;
}

const tails = new Map<string, Promise<unknown>>();

/** Writes in one place go out one after another, each when the one before is answered. */
export function inTurn<T>(place: string, write: () => Promise<T>): Promise<T> {
  const turn = (tails.get(place) ?? Promise.resolve()).then(write);
  tails.set(
    place,
    turn.catch(() => undefined),
  );
  return turn;
}
