import { type ContactView } from '@eager-sieve/contracts';
import { Choice } from '../conditions/lines/inputs';
import { When } from '../ui/when';
import { Why } from '../ui/why';
import { useContactWrite } from './use-contact-write';

const CHANNELS = ['email', 'text', 'chat'] as const;
/** What somebody told us; that mail came back is found out, not said. */
const CONSENTS = [
  ['given', 'given'],
  ['withdrawn', 'withdrawn'],
  ['unknown', 'unknown'],
] as const;

/** By which ways somebody may be written to, and how we know. */
export function Consents({ contact }: { contact: ContactView }) {
  const set = useContactWrite(contact);
  return (
    <ul className="flex flex-wrap gap-x-5 gap-y-1">
      {CHANNELS.map((channel) => {
        const consent = contact.consent.find((each) => each.channel === channel);
        return (
          <li key={channel} data-fact>
            <span className="quiet">{channel}</span>{' '}
            <span className="spoken">
              <Choice
                label={`Consent to ${channel}`}
                value={consent?.state ?? 'unknown'}
                choices={CONSENTS}
                onPick={(state) => void set({ consent: { [channel]: state as 'given' } })}
              />
            </span>
            {consent && <Why subject={{ whose: { contact: contact.id }, of: 'consent', key: channel }} label={`consent to ${channel}`} />}
            {consent?.proof && <Proof proof={consent.proof} />}
          </li>
        );
      })}
    </ul>
  );
}

/** What was ticked on a form, and whether the link that was sent to the address has been followed. */
function Proof({ proof }: { proof: NonNullable<ContactView['consent'][number]['proof']> }) {
  return (
    <span className="quiet block text-[12.5px] [overflow-wrap:anywhere]">
      “{proof.words}” on {proof.form}, <When at={proof.asked} /> from {proof.askedFrom.replace(/^::ffff:/, '')};{' '}
      {proof.confirmed === null ? (
        'not confirmed yet'
      ) : (
        <>
          confirmed <When at={proof.confirmed} /> from {(proof.confirmedFrom ?? '').replace(/^::ffff:/, '')}
        </>
      )}
    </span>
  );
}
