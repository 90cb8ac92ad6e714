/** A count with the word that goes with it: 1 part, 2 parts. */
export const counted = (count: number, one: string, many = `${one}s`): string => `${String(count)} ${count === 1 ? one : many}`
