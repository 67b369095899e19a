import { type Problem } from '@eager-sieve/contracts';

/** What went wrong, in words for a person. */
export function wordsOf(error: unknown): string {
  const { status, data } = (error ?? {}) as { status?: unknown; data?: Problem };
  if (status === 'FETCH_ERROR') return 'The server does not answer. What you entered is still here; try again in a moment.';
  if (data?.faults && data.faults.length > 0) {
    const faults = data.faults
      .slice(0, 4)
      .map((fault) => `${fault.path.length > 0 ? `${fault.path.join(' › ')}: ` : ''}${fault.expected} is wanted`);
    return `${data.title} ${faults.join('; ')}.`;
  }
  return [data?.title ?? 'Something went wrong.', data?.detail].filter(Boolean).join(' ');
}

export const statusOf = (error: unknown): number | undefined => {
  const status = (error as { status?: unknown } | undefined)?.status;
  return typeof status === 'number' ? status : undefined;
};
