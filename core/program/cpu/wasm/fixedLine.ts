/** Lines of 16-bit values (AssemblyScript), one per column. */

/** Address of a column. */
// @ts-ignore: decorator
@inline
export function at(line: usize, x: i32): usize {
  return line + ((<usize>x) << 1);
}

/** (1 − amount) · a + amount · b, for amounts in Q15: a difference could overflow. */
// @ts-ignore: decorator
@inline
export function mixOf(a: v128, b: v128, amount: v128, rest: v128): v128 {
  return i16x8.add_sat_s(i16x8.q15mulr_sat_s(a, rest), i16x8.q15mulr_sat_s(b, amount));
}
