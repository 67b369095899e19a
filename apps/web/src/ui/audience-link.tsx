import { type ReactNode } from 'react';
import { Link } from 'react-router';
import { useMayCall } from '../app/use-may';

/** The name of an audience, with the way to its page for those who may open it. */
export function AudienceLink({ audience, children }: { audience: string; children: ReactNode }) {
  return useMayCall('audience') ? (
    <Link className="leads" to={`/audiences/${audience}`}>
      {children}
    </Link>
  ) : (
    <span>{children}</span>
  );
}
