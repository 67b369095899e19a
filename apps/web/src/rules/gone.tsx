import { Link } from 'react-router';
import { Empty } from '../ui/states';

/** Where there is no such thing. */
export function Gone({ thing }: { thing: string }) {
  return (
    <Empty title={`There is no such ${thing}`}>
      <Link className="leads" to="/rules">
        All rules
      </Link>
    </Empty>
  );
}
