/** What is taken out of the bench as a file: the drawing as it stands, the control table of the machine. */
import { controlCsv } from '@zettak/core/session/controlCsv';
import { pictureOf } from '../datapath/picture';
import { saveFile } from '../ui/saveFile';
import { useDocument } from './document';
import { say } from './text';

/** The drawing that is shown; undefined where there is none. */
function drawing(): string | undefined {
  const shown = document.querySelector<SVGSVGElement>('svg.datapath');
  if (!shown) say('There is no drawing: load a program first.');
  return shown ? pictureOf(shown) : undefined;
}

export function saveDrawing(): void {
  const picture = drawing();
  if (picture) saveFile(`${useDocument.getState().program?.name ?? 'drawing'}.svg`, picture);
}

/** To the clipboard; where the browser has none to give, as on a page that is not secure, it says so. */
export async function copyDrawing(): Promise<void> {
  const picture = drawing();
  if (!picture) return;
  try {
    await navigator.clipboard.writeText(picture);
    say('The drawing has been copied as SVG.');
  } catch {
    say('The browser gives no clipboard here. “Save the drawing” makes a file of it.');
  }
}

export function saveControlTable(): void {
  const { machine } = useDocument.getState();
  if (machine) saveFile(`${machine.name} control.csv`, controlCsv(machine));
}
