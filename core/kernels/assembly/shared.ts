/** Bytes of a float, and of the four that are worked on at a time. */
export const FLOAT: usize = 4;
export const FOUR: usize = 16;

/** The sum of four floats. */
@inline
export function sumOf(four: v128): f64 {
  return (
    (f32x4.extract_lane(four, 0) as f64) +
    (f32x4.extract_lane(four, 1) as f64) +
    (f32x4.extract_lane(four, 2) as f64) +
    (f32x4.extract_lane(four, 3) as f64)
  );
}
