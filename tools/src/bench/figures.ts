/** The value below which so large a part of the values lies. */
export const quantile = (values: readonly number[], part: number): number =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(values.length * part))] ?? 0;

export const median = (values: readonly number[]): number => quantile(values, 0.5);
