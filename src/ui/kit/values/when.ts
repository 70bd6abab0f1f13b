/** A moment in the reader's own time: `14 Mar 2027, 09:30`. */
export const when = (at: string): string =>
  new Date(at).toLocaleString('en-GB', {
    ...{ day: 'numeric', month: 'short', year: 'numeric' },
    ...{ hour: '2-digit', minute: '2-digit' },
  });

/** A civil day: `14 Mar 2027`. */
export const civilDay = (day: string): string =>
  new Date(`${day}T00:00:00Z`).toLocaleDateString('en-GB', {
    ...{ timeZone: 'UTC', day: 'numeric', month: 'short', year: 'numeric' },
  });
