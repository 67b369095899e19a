import { Link } from 'react-router';
import { useMayCall } from '../app/use-may';

/** The name of a company, with the way to its page for those who may open it. */
export function CompanyLink({ id, name, className = 'leads', title }: { id: string; name: string; className?: string; title?: string }) {
  return useMayCall('company') ? (
    <Link className={className} to={`/people/companies/${id}`} title={title}>
      {name}
    </Link>
  ) : (
    <span title={title}>{name}</span>
  );
}
