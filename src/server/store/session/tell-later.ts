const listeners = globalThis as { oikonLater?: (workspace: string) => void };

/** Calls back, within this process, once a run that left something for soon after is committed. One listener; none in tests. */
export const onLater = (listener: (workspace: string) => void): void => {
  listeners.oikonLater = listener;
};

export const tellLater = (workspace: string): void => listeners.oikonLater?.(workspace);
