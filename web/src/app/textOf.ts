/** What went wrong, in words. */
export const textOf = (error: unknown): string => (error instanceof Error ? error.message : String(error));
