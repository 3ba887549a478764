/** The drawing as a file of its own: SVG that looks the same where no style sheet of ours is. */

/** What the style sheet gives, and a picture has to bring along. */
const LOOKS = [
  'fill',
  'stroke',
  'stroke-width',
  'stroke-dasharray',
  'stroke-linejoin',
  'font-family',
  'font-size',
  'font-weight',
  'opacity',
  'text-decoration-line',
  'text-decoration-color',
  'text-decoration-thickness',
  'transform',
] as const;

/** What says nothing in a picture. */
const DROPPED = ['class', 'style', 'tabindex', 'role', 'data-testid', 'data-register', 'data-control', 'data-pair', 'aria-checked'];

const USUAL: Readonly<Record<string, string>> = {
  'stroke-dasharray': 'none',
  'stroke-linejoin': 'miter',
  opacity: '1',
  'text-decoration-line': 'none',
  transform: 'none',
};

/** As text; stays as it is on the screen at this moment. */
export function pictureOf(drawing: SVGSVGElement): string {
  const copy = drawing.cloneNode(true) as SVGSVGElement;
  const [shown, made] = [
    [drawing, ...drawing.querySelectorAll('*')],
    [copy, ...copy.querySelectorAll('*')],
  ];
  made.forEach((element, at) => dress(element, getComputedStyle(shown[at]!)));
  const { width, height, x, y } = drawing.viewBox.baseVal;
  const ground = document.createElementNS('http://www.w3.org/2000/svg', 'rect');
  for (const [name, value] of Object.entries({ x, y, width, height, fill: groundOf(drawing) })) ground.setAttribute(name, String(value));
  copy.prepend(ground);
  copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg');
  copy.setAttribute('width', String(width));
  copy.setAttribute('height', String(height));
  return `<?xml version="1.0" encoding="UTF-8"?>\n${new XMLSerializer().serializeToString(copy)}\n`;
}

function dress(element: Element, look: CSSStyleDeclaration): void {
  for (const name of DROPPED) element.removeAttribute(name);
  const kept = LOOKS.flatMap((name) => {
    const value = look.getPropertyValue(name);
    const text = /^font|^text/.test(name);
    if (value === '' || value === USUAL[name] || (text && !/^(text|tspan)$/.test(element.tagName))) return [];
    return [`${name}:${name === 'font-family' ? `${value.replaceAll('"', "'")}, sans-serif` : value}`];
  });
  if (!/^(svg|g|title|defs|marker)$/.test(element.tagName) || look.transform !== 'none') element.setAttribute('style', kept.join(';'));
}

/** The colour behind it. */
function groundOf(drawing: SVGSVGElement): string {
  for (let element = drawing.parentElement; element; element = element.parentElement) {
    const { backgroundColor } = getComputedStyle(element);
    if (!/^(transparent|rgba\(0, 0, 0, 0\))$/.test(backgroundColor)) return backgroundColor;
  }
  return 'white';
}
