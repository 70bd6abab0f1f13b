/** A record by its type and title, as “Exhibition Rivers of Silk”; one whose title says its type already by that alone: “Exhibition A”. */
export const called = (type: string, title: string): string =>
  ` ${title} `.toLowerCase().startsWith(` ${type} `.toLowerCase()) ? title : `${type} ${title}`;
