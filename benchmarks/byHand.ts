/** The second machine as a person would write it in JavaScript for speed alone, with PC, IR, MAR, MDR and all flags kept. */
export function runGannetByHand(cells: readonly number[], ticks: number): { done: number; check: number } {
  const m = new Uint16Array(65_536);
  m.set(cells);
  const reg = new Uint16Array(8);
  reg[4] = 0xdf00;
  let pc = 0,
    ir = 0,
    mar = 0,
    mdr = 0,
    z = 0,
    n = 0,
    c = 0,
    v = 0;
  let done = 0;
  while (done < ticks) {
    mar = pc;
    ir = m[mar]!;
    pc = (pc + 1) & 0xffff;
    done += 3;
    const d = (ir >> 9) & 7;
    const a = (ir >> 6) & 7;
    const value = ((ir & 63) << 26) >> 26;
    switch (ir >> 12) {
      case 5: {
        const [x, y] = [reg[a]!, reg[(ir >> 3) & 7]!];
        const r = (ir & 7) === 0 ? x + y : x - y;
        const q = r & 0xffff;
        c = (ir & 7) === 0 ? r >> 16 : x >= y ? 1 : 0;
        v = (((ir & 7) === 0 ? (x ^ q) & (y ^ q) : (x ^ y) & (x ^ q)) >> 15) & 1;
        if (d !== 0) reg[d] = q;
        z = q === 0 ? 1 : 0;
        n = q >> 15;
        done += 1;
        break;
      }
      case 6: {
        const x = reg[a]!;
        const y = value & 0xffff;
        const r = x + y;
        const q = r & 0xffff;
        c = r >> 16;
        v = (((x ^ q) & (y ^ q)) >> 15) & 1;
        if (d !== 0) reg[d] = q;
        z = q === 0 ? 1 : 0;
        n = q >> 15;
        done += 1;
        break;
      }
      case 8:
        mar = (reg[a]! + value) & 0xffff;
        mdr = m[mar]!;
        if (d !== 0) reg[d] = mdr;
        z = mdr === 0 ? 1 : 0;
        n = mdr >> 15;
        done += 3;
        break;
      case 9:
        mar = (reg[a]! + value) & 0xffff;
        mdr = reg[d]!;
        m[mar] = mdr;
        done += 2;
        break;
      case 2: {
        const condition = (ir >> 9) & 7;
        if (condition === 0 || (condition === 2 && z === 0)) pc = (pc + (((ir & 511) << 23) >> 23)) & 0xffff;
        done += 1;
        break;
      }
      default:
        throw new Error(`No hand-written opcode ${ir >> 12}`);
    }
  }
  return { done, check: reg.reduce((sum, each) => sum + each, pc + ir + mar + mdr + z + n + c + v) };
}
