const KEY = 'oikon.workspace';

/** The workspace that this browser was in last. */
export const lastWorkspace = (): string | null => localStorage.getItem(KEY);
export const rememberWorkspace = (key: string): void => localStorage.setItem(KEY, key);
