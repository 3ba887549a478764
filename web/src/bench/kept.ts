/** Small texts that the browser keeps for each program. */
export const kept = (what: string, program: string): string => localStorage.getItem(`zettak.${what}.${program}`) ?? '';

export const keep = (what: string, program: string, text: string): void => localStorage.setItem(`zettak.${what}.${program}`, text);
