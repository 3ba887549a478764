/* The two machines as a person would write them in C for speed alone: ticks a second of a program, its cells on the standard input. */
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

static uint8_t m8[256];
static uint16_t m16[65536];
static uint8_t even[256];

static uint64_t curlew(uint64_t ticks, uint32_t *check) {
  uint8_t pc = 0, mar = 0, mdr = 0, acc = 0, sp = 0xf0, z = 0, n = 0, c = 0, v = 0, h = 0, p = 0;
  uint16_t ir = 0;
  uint64_t done = 0;
  while (done < ticks) {
    mar = pc;
    ir = (uint16_t)(m8[mar] << 8);
    pc++;
    const uint8_t op = ir >> 8;
    done += 3;
    if (op != 0x39 && op != 0x61) {
      mar = pc;
      ir |= m8[mar];
      pc++;
      done += 2;
    }
    const uint8_t low = ir & 255;
    int r;
    switch (op) {
    case 0x1f: acc = low; z = acc == 0; n = acc >> 7; done += 1; break;
    case 0x12: mar = low; mdr = m8[mar]; acc = mdr; z = acc == 0; n = acc >> 7; done += 3; break;
    case 0x26: mar = low; mdr = acc; m8[mar] = mdr; done += 2; break;
    case 0x3a:
      r = acc + low;
      c = r >> 8; v = (((acc ^ r) & (low ^ r)) >> 7) & 1; h = ((acc & 15) + (low & 15)) >> 4; p = even[r & 255];
      acc = r & 255; z = acc == 0; n = acc >> 7; done += 1; break;
    case 0x34:
      mar = low; mdr = m8[mar]; r = acc - mdr;
      c = r < 0; v = (((acc ^ mdr) & (acc ^ r)) >> 7) & 1; h = (acc & 15) < (mdr & 15); p = even[r & 255];
      acc = r & 255; z = acc == 0; n = acc >> 7; done += 3; break;
    case 0x35:
      mar = low; mdr = m8[mar]; r = acc - mdr;
      c = r < 0; v = (((acc ^ mdr) & (acc ^ r)) >> 7) & 1; h = (acc & 15) < (mdr & 15); p = even[r & 255];
      z = (r & 255) == 0; n = (r >> 7) & 1; done += 3; break;
    case 0x39: c = acc & 1; acc >>= 1; p = even[acc]; v = 0; z = acc == 0; n = acc >> 7; done += 1; break;
    case 0x40: pc = low; done += 1; break;
    case 0x51: if (z == 0) pc = low; done += 1; break;
    case 0x53: if (c == 1) pc = low; done += 1; break;
    case 0x60: sp--; mdr = pc; mar = sp; m8[mar] = mdr; pc = low; done += 4; break;
    case 0x61: mar = sp; mdr = m8[mar]; sp++; pc = mdr; done += 3; break;
    default: fprintf(stderr, "no opcode %d\n", op); exit(1);
    }
  }
  *check = pc + mar + mdr + acc + sp + z + n + c + v + h + p + ir;
  return done;
}

static uint64_t gannet(uint64_t ticks, uint32_t *check) {
  uint16_t pc = 0, ir = 0, mar = 0, mdr = 0, reg[8] = {0, 0, 0, 0, 0xdf00, 0, 0, 0};
  uint8_t z = 0, n = 0, c = 0, v = 0;
  uint64_t done = 0;
  while (done < ticks) {
    mar = pc;
    ir = m16[mar];
    pc++;
    done += 3;
    const int d = (ir >> 9) & 7, a = (ir >> 6) & 7, b = (ir >> 3) & 7;
    const int16_t value = (int16_t)((ir & 63) << 10) >> 10;
    uint32_t r;
    uint16_t x, y;
    switch (ir >> 12) {
    case 5:
      x = reg[a]; y = reg[b];
      if ((ir & 7) == 0) { r = (uint32_t)x + y; c = r >> 16; v = ((x ^ r) & (y ^ r)) >> 15 & 1; }
      else { r = (uint32_t)x - y; c = x >= y; v = ((x ^ y) & (x ^ r)) >> 15 & 1; }
      if (d) reg[d] = (uint16_t)r;
      z = (uint16_t)r == 0; n = (uint16_t)r >> 15; done += 1; break;
    case 6:
      x = reg[a]; y = (uint16_t)value; r = (uint32_t)x + y;
      c = r >> 16; v = ((x ^ r) & (y ^ r)) >> 15 & 1;
      if (d) reg[d] = (uint16_t)r;
      z = (uint16_t)r == 0; n = (uint16_t)r >> 15; done += 1; break;
    case 8: mar = reg[a] + value; mdr = m16[mar]; if (d) reg[d] = mdr; z = mdr == 0; n = mdr >> 15; done += 3; break;
    case 9: mar = reg[a] + value; mdr = reg[d]; m16[mar] = mdr; done += 2; break;
    case 2: {
      const int16_t target = (int16_t)((ir & 511) << 7) >> 7;
      const int condition = (ir >> 9) & 7;
      if (condition == 0 || (condition == 2 && z == 0)) pc += target;
      done += 1;
      break;
    }
    default: fprintf(stderr, "no opcode %d\n", ir >> 12); exit(1);
    }
  }
  *check = pc + ir + mar + mdr + z + n + c + v;
  for (int i = 0; i < 8; i++) *check += reg[i];
  return done;
}

int main(int count, char **words) {
  const int wide = count > 1 && strcmp(words[1], "Gannet") == 0;
  const uint64_t ticks = count > 2 ? strtoull(words[2], 0, 10) : 0;
  unsigned address, value;
  while (scanf("%u %u", &address, &value) == 2)
    if (wide) m16[address & 65535] = (uint16_t)value;
    else m8[address & 255] = (uint8_t)value;
  for (int i = 0; i < 256; i++) even[i] = __builtin_popcount(i) % 2 == 0;
  uint32_t check;
  struct timespec from, to;
  clock_gettime(CLOCK_MONOTONIC, &from);
  const uint64_t done = wide ? gannet(ticks, &check) : curlew(ticks, &check);
  clock_gettime(CLOCK_MONOTONIC, &to);
  printf("%.0f %u\n", done / ((double)(to.tv_sec - from.tv_sec) + (to.tv_nsec - from.tv_nsec) / 1e9), check);
  return 0;
}
