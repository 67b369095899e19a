import { useEffect, useState } from 'react';

const SETTLE_MS = 200;

/** The value after it has stood still for a moment, so that not every letter that is typed asks the server. */
export function useSettled<T>(value: T): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), SETTLE_MS);
    return () => clearTimeout(timer);
  }, [value]);
  return settled;
}
