/** Which warnings and remarks are told; errors always are. */
import { CHECKS } from '@zettak/core/assembler/check/checks';
import { switchCheck, useText } from '../text';

export function ChecksTab() {
  const off = useText((state) => state.checksOff);
  const problems = useText((state) => state.listing.problems);
  return (
    <>
      <p className="hint pad">Warnings and remarks are told when …</p>
      <ul className="checks">
        {CHECKS.map(({ code, says }) => {
          const found = problems.filter((each) => each.code === code).length;
          return (
            <li key={code}>
              <label>
                <input
                  type="checkbox"
                  checked={!off.includes(code)}
                  onChange={(event) => void switchCheck(code, event.target.checked)}
                  data-testid={`check-${code}`}
                />
                <span>{says}</span>
                {found > 0 && <b title={`${found} in this program`}>{found}</b>}
              </label>
            </li>
          );
        })}
      </ul>
    </>
  );
}
