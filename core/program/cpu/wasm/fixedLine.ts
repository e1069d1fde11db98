/** Lines of 16-bit numbers (AssemblyScript), one for each column. */

/** Where a column lies. */
// @ts-ignore: decorator
@inline
export function at(line: usize, x: i32): usize {
  return line + ((<usize>x) << 1);
}

/** (1 − amount) · a + amount · b, for an amount in Q15 and what is left of 1: a difference might run over. */
// @ts-ignore: decorator
@inline
export function mixOf(a: v128, b: v128, amount: v128, rest: v128): v128 {
  return i16x8.add_sat_s(i16x8.q15mulr_sat_s(a, rest), i16x8.q15mulr_sat_s(b, amount));
}
