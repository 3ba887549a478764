/** What registers of a machine are for: the groups in which they are shown, and what built-in services do with them. */
import { registersIn, type Machine, type Role } from './machine';

/** where: the run stands there; works: values are worked on there; stack: it says where a stack is. */
export type RegisterGroup = 'where' | 'works' | 'stack';

const GROUP_OF: Partial<Record<Role, RegisterGroup>> = {
  'program counter': 'where',
  instruction: 'where',
  'memory address': 'where',
  'memory data': 'where',
  'stack pointer': 'stack',
  link: 'stack',
};
const ORDER: readonly RegisterGroup[] = ['where', 'works', 'stack'];

export const groupOf = (role: Role | undefined): RegisterGroup => (role && GROUP_OF[role]) ?? 'works';

/** Numbers of registers by their groups; within a group as the document has them. Every register stands in one. */
export function registersByGroup({ registers }: Machine): readonly (readonly number[])[] {
  return ORDER.map((group) => registers.flatMap(({ role }, at) => (groupOf(role) === group ? [at] : []))).filter(
    ({ length }) => length > 0,
  );
}

export interface ServiceUse {
  /** Names of traps whose service takes what stands in the register. */
  readonly reads: readonly string[];
  /** Names of traps whose service puts something into it. */
  readonly brings: readonly string[];
}

/** What built-in services do with a register. */
export function servicesWith({ traps }: Machine, register: number): ServiceUse {
  const has = (place: Parameters<typeof registersIn>[0] | undefined): boolean =>
    place !== undefined && registersIn(place).includes(register);
  return {
    reads: traps.filter(({ argument, length }) => has(argument) || has(length)).map((each) => each.name),
    brings: traps.filter(({ result }) => has(result)).map((each) => each.name),
  };
}
