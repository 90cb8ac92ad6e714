/** How sheets are cut. */
export const PROCESSES = ['laser', 'plasma', 'waterjet'] as const

export type Process = (typeof PROCESSES)[number]
