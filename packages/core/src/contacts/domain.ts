/** How many other contacts have addresses at a domain: in all, in some company, and in the company that most of them are in. */
export interface AtDomain {
  readonly all: number;
  readonly linked: number;
  readonly together: number;
}

/**
 * Whether a domain speaks for a company: nearly all who are linked to one are in the same, and these are no few among all. A provider of
 * mailboxes has people of many companies, or of none.
 */
export const speaksForCompany = ({ all, linked, together }: AtDomain): boolean =>
  together > 0 && together >= 0.8 * linked && together >= 0.2 * all;

/** What stands behind the last @ of an address, folded as it is. */
export const domainOf = (email: string): string => email.slice(email.lastIndexOf('@') + 1);
