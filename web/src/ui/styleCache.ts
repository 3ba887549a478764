/** Where the component library writes its rules, so that a rule which comes late costs as little as one that came early. */
import createCache from '@emotion/cache';

/**
 * A browser that is given one more rule looks at the elements which it may apply to. Given one more rule with a condition
 * (`@media`, `@container`), or one more movement (`@keyframes`), it works out every element anew that any rule of the same sheet
 * applies to. Such a rule therefore begins a sheet of its own, which takes what comes after it, too.
 */
export function styleCache(): ReturnType<typeof createCache> {
  const cache = createCache({ key: 'css' });
  const { sheet } = cache;
  const insert = sheet.insert.bind(sheet);
  /** Sheets that are begun in one go are looked at by the browser once. */
  let begun = false;
  sheet.insert = (rule) => {
    if (rule.startsWith('@') && !begun) {
      // With none counted, the next rule begins a sheet.
      sheet.ctr = 0;
      begun = true;
      queueMicrotask(() => (begun = false));
    }
    insert(rule);
  };
  return cache;
}
