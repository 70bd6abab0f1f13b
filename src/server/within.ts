/** Waits for something at most so many milliseconds; what `late` makes is thrown then. The work itself isn't ended by it. */
export async function within<T>(work: Promise<T>, milliseconds: number, late: () => Error): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const silence = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(late()), milliseconds);
  });
  try {
    return await Promise.race([work, silence]);
  } finally {
    clearTimeout(timer);
  }
}
