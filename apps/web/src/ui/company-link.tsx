import { Link } from 'react-router';
import { useMayCall } from '../app/use-may';

interface CompanyLinkProps {
  readonly id: string;
  readonly name: string;
  readonly title?: string;
  /** how it looks, where it is not a link like others */
  readonly className?: string;
}

/** The name of a company, with the way to its page for those who may open it. */
export function CompanyLink({ id, name, title, className }: CompanyLinkProps) {
  return useMayCall('company') ? (
    <Link className={className ?? 'leads'} to={`/people/companies/${id}`} title={title}>
      {name}
    </Link>
  ) : (
    <span className={className} title={title}>
      {name}
    </span>
  );
}
