/** Screens that ask for what they will show before they are drawn. */

type From = Readonly<Record<string, string | undefined>>;

/**
 * `begin` opens what stands in an address while the screen is still being read; `open` is for the screen, which then does
 * not ask once more for the same when it is drawn first.
 */
export function openedEarly(act: (program: string | undefined) => void): {
  begin(from: From): void;
  open(program: string | undefined): void;
} {
  let begun: { readonly program: string | undefined } | undefined;
  return {
    begin({ program }) {
      begun = { program };
      act(program);
    },
    open(program) {
      const early = begun;
      begun = undefined;
      if (!early || early.program !== program) act(program);
    },
  };
}
