/** Machine to drawing: where its registers, ALU and memories stand, from their roles alone. Knows no machine and no page. */
import type { Machine, Role, Space } from '@zettak/core/machine/model/machine';
import { itemAt } from '@zettak/core/text/itemAt';
import { shownLength, type Numerals } from '@zettak/core/text/number';

export interface Box {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

export interface RegisterBox extends Box {
  readonly register: number;
  /** large: value, old value and other readings; wide: one box a cell; small: name beside value. */
  readonly look: 'large' | 'plain' | 'small' | 'wide';
  readonly side: 'left' | 'right';
}

export interface SpaceBox extends Box {
  readonly space: number;
}

export interface Drawing {
  readonly width: number;
  readonly height: number;
  readonly processor: Box;
  readonly registers: readonly RegisterBox[];
  readonly alu: Box;
  readonly spaces: readonly SpaceBox[];
  readonly outside: Box;
  /** The line that all registers hang on. */
  readonly trunk: { readonly x: number; readonly top: number; readonly bottom: number };
  /** Where results climb from the ALU, and where values climb to its right input. */
  readonly riser: number;
  readonly sideRiser: number;
  /** Heights of the two lines between processor and memories that pass no register. */
  readonly addressLine: number;
  readonly dataLine: number;
}

const LEFT = { x: 14, width: 150 };
const RIGHT = { x: 258, width: 150 };
const TRUNK = 228;
const TOP = 34;
const MEMORY_X = 450;

/** Where registers of a role stand. A role not named here stands on the left. */
const RIGHT_ROLES: readonly (Role | undefined)[] = ['accumulator', 'memory address', 'memory data'];

/** Where everything of a machine stands, in units of the drawing. */
export function layOut(machine: Machine): Drawing {
  const indices = machine.registers.map((_, at) => at);
  const roleOf = (at: number): Role | undefined => itemAt(machine.registers, at).role;
  const left = indices.filter((at) => roleOf(at) !== 'instruction' && !RIGHT_ROLES.includes(roleOf(at)));
  const accumulators = indices.filter((at) => roleOf(at) === 'accumulator');
  const atMemory = ['memory address', 'memory data'].flatMap((role) => indices.filter((at) => roleOf(at) === role));
  const upper = stack(accumulators, { ...RIGHT, y: TOP, height: accumulators.length > 1 ? 52 : 82, gap: 8 });
  const aluTop = bottomOf(upper, TOP - 20) + 32;
  const alu = { x: 268, y: aluTop, width: 132, height: 72 };
  const lower = stack(atMemory, { x: 276, width: 132, y: aluTop + 92, height: 36, gap: 8 });
  const leftBoxes = columns(left, TOP);
  const needed = Math.max(bottomOf(lower, aluTop + 84) + 20, bottomOf(leftBoxes, TOP) + 90, 336);
  const instruction: RegisterBox[] = indices
    .filter((at) => roleOf(at) === 'instruction')
    .map((register) => ({ register, x: LEFT.x, y: needed - 80, width: 196, height: 68, look: 'wide', side: 'left' }));
  return {
    width: MEMORY_X + memoryWidth(machine),
    height: needed + 66,
    processor: { x: 0, y: 0, width: 420, height: needed },
    registers: [
      ...leftBoxes,
      ...instruction,
      ...upper.map((each) => ({ ...each, look: upper.length > 1 ? ('plain' as const) : ('large' as const), side: 'right' as const })),
      ...lower.map((each) => ({ ...each, look: 'small' as const, side: 'right' as const })),
    ],
    alu,
    spaces: spaceBoxes(machine, needed + 66),
    outside: { x: 0, y: needed + 10, width: 420, height: 56 },
    trunk: { x: TRUNK, top: TOP + 20, bottom: needed - 10 },
    riser: TRUNK + 15,
    sideRiser: 414,
    addressLine: needed - 18,
    dataLine: needed - 8,
  };
}

const bottomOf = (boxes: readonly Box[], none: number): number => Math.max(none, ...boxes.map((each) => each.y + each.height));

function stack(
  registers: readonly number[],
  { x, y, width, height, gap }: Box & { readonly gap: number },
): (Box & { readonly register: number })[] {
  return registers.map((register, at) => ({ register, x, width, y: y + at * (height + gap), height }));
}

/** One column while that is roomy, else two of small boxes. */
function columns(registers: readonly number[], top: number): RegisterBox[] {
  if (registers.length <= 3) {
    return stack(registers, { ...LEFT, y: top, height: 58, gap: 10 }).map((each) => ({ ...each, look: 'plain', side: 'left' }));
  }
  const half = Math.ceil(registers.length / 2);
  const width = (LEFT.width - 6) / 2 + 24;
  return registers.map((register, at) => ({
    register,
    x: LEFT.x + (at < half ? 0 : width + 6),
    y: top + (at % half) * 38,
    width,
    height: 32,
    look: 'small',
    side: 'left',
  }));
}

function spaceBoxes(machine: Machine, height: number): SpaceBox[] {
  const gap = 10;
  const each = (height - gap * (machine.spaces.length - 1)) / machine.spaces.length;
  const width = memoryWidth(machine);
  return machine.spaces.map((_, space) => ({ space, x: MEMORY_X, width, y: space * (each + gap), height: each }));
}

/** Digits that an address of a space takes on screen, its bank included. */
export const shownPlace = ({ addressWidth, banks }: Space, numerals: Numerals): number =>
  shownLength(addressWidth, numerals) + (banks > 1 ? 2 : 0);

/** How many characters a cell's value takes. */
export const shownCell = ({ width }: Space, numerals: Numerals): number => shownLength(width, numerals);

/** Room for an address, a value and the beginning of a name. */
function memoryWidth(machine: Machine): number {
  const { spaces } = machine;
  const widest = Math.max(...spaces.map((each) => shownPlace(each, machine) + shownCell(each, machine)));
  const titled = Math.max(...spaces.map((each) => each.title.length)) * 7.8 + 24;
  return Math.max(Math.min(180, 114 + Math.max(0, widest - 4) * 11), Math.min(180, titled));
}

/** The box of a register that is drawn. */
export const boxOf = (drawing: Drawing, register: number): RegisterBox => drawing.registers.find((each) => each.register === register)!;
