import { bake } from '@inkavo/core/program/bake';
import type { BakedOp, BakedTable } from '@inkavo/core/program/baked';
import { compile, tableOf } from '@inkavo/core/program/compile';
import { newStep } from '@inkavo/core/model/grade';
import { numberedCopy, TablesReceived, TablesSent } from './sentTables';

const tableOp = (contrast: number, size = 5): BakedTable => ({
  kind: 'table',
  table: bake(tableOf(compile([newStep('range', 'r', { contrast })], 0)), size),
});
const corners: BakedOp = { kind: 'point', step: 'corners', params: { amount: 1 }, plane: 0 };

/** What a worker receives: a copy, including of data that it already has. */
const posted = (ops: readonly BakedOp[]): BakedOp[] =>
  ops.map((op) => (op.kind === 'table' ? { ...op, table: { ...op.table, data: op.table.data.slice() } } : { ...op }));
const valuesIn = (ops: readonly BakedOp[]): number =>
  ops.reduce((n, op) => n + (op.kind === 'table' ? op.table.data.length : 0), 0);

test('a table is sent once; what arrives is what was sent, and the same object for the same table', () => {
  const [sent, received] = [new TablesSent(), new TablesReceived()];
  const [a, b, c] = [1.2, 0.8, 1.5].map((contrast) => tableOp(contrast));
  const pass = (ops: readonly BakedOp[]) => {
    const packed = sent.pack(ops.map(numberedCopy));
    return { values: valuesIn(packed), ops: received.unpack(posted(packed)) };
  };
  const first = pass([a, corners, b]);
  expect(first.values).toBe(2 * 4 * 125);
  expect(first.ops).toMatchObject([a, corners, b]);
  // One of them differs; the others are in the same place, or elsewhere.
  const second = pass([b, corners, c]);
  expect(second.values).toBe(4 * 125);
  expect(second.ops).toMatchObject([b, corners, c]);
  expect((second.ops[0] as BakedTable).table).toBe((first.ops[2] as BakedTable).table);
  // None is identified by its position.
  expect(pass([a, b, c]).values).toBe(0);
  expect(pass([]).ops).toEqual([]);
});

test('both ends forget the same tables, those that were used longest ago, and never one that is in use', () => {
  const [sent, received] = [new TablesSent(), new TablesReceived()];
  // 65 nodes to an edge, with arbitrary values: seven of them are kept.
  const large = Array.from({ length: 14 }, (_, i) => ({
    ...tableOp(1.1),
    table: { ...tableOp(1.1).table, size: 65, data: new Float32Array([i, 1, 2, 3]) },
  })).map(numberedCopy);
  const pass = (ops: readonly BakedOp[]): number => {
    const packed = sent.pack(ops);
    expect(received.unpack(posted(packed))).toMatchObject(ops);
    return valuesIn(packed) / 4;
  };
  for (const op of large.slice(0, 7)) expect(pass([op])).toBe(1);
  expect(pass([large[0]])).toBe(0);
  expect(pass([large[7]])).toBe(1);
  // The second is the least recently used.
  expect(pass([large[0], large[2]])).toBe(0);
  expect(pass([large[1]])).toBe(1);
  // More in use at once than are cached otherwise: all stay as long as they are in use.
  expect(pass(large)).toBeLessThan(14);
  expect(pass(large)).toBe(0);
});

test('a table that never came is an error, and ops without numbers pass as they are', () => {
  const op = tableOp(1.1);
  expect(new TablesReceived().unpack([op, corners])).toEqual([op, corners]);
  const sent = new TablesSent();
  const own = numberedCopy(op);
  sent.pack([own]);
  expect(() => new TablesReceived().unpack(sent.pack([own]))).toThrow(/never came/);
});
