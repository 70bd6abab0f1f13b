/** A field of a record, as a key: what is pointed at. */
export const cellKey = (type: string, id: string, field: string): string => `${type} ${id} ${field}`;
