import { Link } from 'react-router';
import { CompanyLink } from './company-link';

interface AboutProps {
  readonly of: {
    readonly contact?: string | null;
    readonly contactName?: string | null;
    readonly company?: string | null;
    readonly companyName?: string | null;
  };
  readonly className?: string;
}

/** Whom something is about, a contact or a company, with the way there. Nothing where it is about neither. */
export function About({ of: { contact, contactName, company, companyName }, className }: AboutProps) {
  if (contact)
    return (
      <Link className={className ?? 'leads'} to={`/people/${contact}`}>
        {contactName}
      </Link>
    );
  if (!company) return null;
  return <CompanyLink id={company} name={companyName ?? ''} {...(className === undefined ? {} : { className })} />;
}
