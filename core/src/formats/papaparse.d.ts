/** The two functions of the CSV library that are used, without what it says of pages and of Node. */
declare module 'papaparse' {
  interface Papa {
    /** Rows of fields as text; `delimiter` '' guesses among the usual ones. */
    parse(text: string, options: { readonly delimiter: string; readonly skipEmptyLines: boolean }): { readonly data: string[][] };
    unparse(
      rows: readonly (readonly (string | number)[])[],
      options: { readonly newline: string; readonly escapeFormulae: RegExp },
    ): string;
  }
  const papa: Papa;
  export default papa;
}
