const FIRST = '00000000-0000-7000-8000-00000a000001';

/** Ids one after the other, the same each time: what a rehearsal makes is the same record in the next one. Nothing of it is saved. They go on after so many that were given. */
export function numberedIds(first: string = FIRST, given = 0): () => string {
  let next = parseInt(first.slice(-12), 16) + given;
  return () => {
    const id = `${first.slice(0, -12)}${next.toString(16).padStart(12, '0')}`;
    next += 1;
    return id;
  };
}
