/** The stacks of a machine as they stand: each value with what it is, and what was taken off and still lies there. */
import { placeText } from '../machine/model/describe';
import { addressText, lineAt, ownLine } from '../engine/tell/names';
import type { Telling } from '../engine/tell/narrate';
import { placesUsed } from '../engine/meaning/stacks';
import { NEVER, type Frame } from '../engine/meaning/state';
import { calledAt } from '../image/program';
import type { Stack } from '../machine/model/machine';
import { itemAt } from '../text/itemAt';
import { shownDigits } from '../text/number';
import type { ShownStack, StackItem } from './protocol';

/** Values that are shown of one stack, and of what was taken off it. */
const [MOST, MOST_POPPED] = [40, 4];

export const shownStacks = (telling: Telling): ShownStack[] =>
  telling.machine.stacks.map((each, index) => shownStack(telling, each, index));

function shownStack(telling: Telling, stack: Stack, index: number): ShownStack {
  const { machine, state } = telling;
  const { name, title, pointer, from, to, full, step } = stack;
  const size = Math.floor((to - from + 1) / step);
  const used = Math.floor(placesUsed(machine, state, index) / step);
  const depth = Math.min(used, size);
  const about = { name, title, pointer: itemAt(machine.registers, pointer).name, full, depth, room: Math.max(0, size - used) };
  if (stack.space === undefined || used > size) return { ...about, items: [], popped: [] };
  const place = (number: number): number => (stack.down ? to + 1 - (number + 1) * step : from + number * step);
  const frames = framesOf(telling);
  const items: StackItem[] = [];
  for (let number = depth - 1; number >= 0 && items.length < MOST; number--)
    items.push(itemOf(telling, stack, { at: place(number), frames }));
  const popped: StackItem[] = [];
  for (let number = depth; number < size && popped.length < MOST_POPPED; number++) {
    if (itemAt(itemAt(state.marks, stack.space), place(number)) === NEVER) break;
    popped.push(itemOf(telling, stack, { at: place(number), frames: [] }));
  }
  return { ...about, items, popped };
}

/** Calls that have not returned, the innermost first. */
function framesOf({ state }: Telling): Frame[] {
  const frames: Frame[] = [];
  for (let frame = state.control.callStack; frame && frames.length < MOST; frame = frame.parent) frames.push(frame);
  return frames;
}

/** Takes from `frames` the call whose return address it is. */
function itemOf(telling: Telling, { space, step }: Stack, { at, frames }: { at: number; frames: Frame[] }): StackItem {
  const { machine, program, state } = telling;
  const { width } = itemAt(machine.spaces, space!);
  const own = Array.from({ length: step }, (_, offset) => itemAt(itemAt(state.spaces, space!), at + offset));
  const value = own.reduce((sum, each) => sum * machine.radix ** width + each, 0);
  const turned = own.toReversed().reduce((sum, each) => sum * machine.radix ** width + each, 0);
  const index = frames.findIndex(({ returnTo }) => returnTo === value || (step > 1 && returnTo === turned));
  const [frame] = index === -1 ? [] : frames.splice(0, index + 1).slice(-1);
  const shown = {
    place: placeText(machine, { space: space!, address: at }),
    value: own.map((each) => shownDigits(each, width, machine)).join(' '),
  };
  if (!frame) return { ...shown, what: '' };
  const called = (program && calledAt(program, frame.target)) ?? addressText(machine, frame.target);
  const back = lineAt(program, frame.returnTo) ?? addressText(machine, frame.returnTo);
  const line = ownLine(program, frame.returnTo);
  return { ...shown, what: `return address of ${called}, to ${back}`, ...(line !== undefined && { line }) };
}
