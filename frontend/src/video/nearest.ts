/** Index of the value nearest to `t` in rising `times`. */
export function nearest(times: readonly number[], t: number): number {
  let lo = 0;
  let hi = times.length - 1;
  while (lo < hi) {
    const mid = (lo + hi) >> 1;
    if (times[mid]! < t) lo = mid + 1;
    else hi = mid;
  }
  return lo > 0 && t - times[lo - 1]! < times[lo]! - t ? lo - 1 : lo;
}
