// Ticks of axes that go up by equal steps.
/** A step of 1, 2 or 5 times a power of ten, of which so much has about five. */
export function stepOf(most: number) {
  const power = 10 ** Math.floor(Math.log10(most / 5 || 1));
  const step = [1, 2, 5, 10].map((n) => n * power).find((n) => most / n <= 5) ?? most;
  return Math.max(1, step);
}
