/** Opens a page as a whole new one: nothing of whoever was there before lives on in it. */
export const openPage = (path: string): void => location.assign(path);
