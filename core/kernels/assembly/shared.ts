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

/** The greatest of four floats. */
@inline
export function highestOf(four: v128): f32 {
  const pair = f32x4.max(four, v128.shuffle<f32>(four, four, 2, 3, 0, 1));
  return f32x4.extract_lane(f32x4.max(pair, v128.shuffle<f32>(pair, pair, 1, 0, 3, 2)), 0);
}
