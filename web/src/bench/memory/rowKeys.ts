/** Which elements the rows in sight are drawn in. Moving an element costs as much as making one; giving it other text costs far less. */

export class RowKeys {
  private held = new Map<number, number>();
  private fresh = 0;

  /**
   * A key for each of these rows, in order. A row that was there keeps its own, and those that come beside it get new ones; where
   * none was there, as after a leap, each takes over from the one that stood in its place.
   */
  of(rows: readonly number[]): readonly number[] {
    const before = [...this.held.values()];
    const leaps = !rows.some((row) => this.held.has(row));
    const keys = rows.map((row, at) => (leaps ? before[at] : this.held.get(row)) ?? this.fresh++);
    this.held = new Map(rows.map((row, at) => [row, keys[at]!]));
    return keys;
  }
}
