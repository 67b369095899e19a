import { keyFrom } from '@eager-sieve/core';
import MailComposer from 'nodemailer/lib/mail-composer';

interface Mail {
  readonly to: string;
  readonly subject: string;
  readonly text: string;
  /** the name of the workspace */
  readonly from: string;
  readonly messageId: string;
  /** the address for one-click unsubscribing (RFC 8058); left out where nothing is subscribed to */
  readonly unsubscribe?: string;
}

/** A message as RFC 5322 text. */
export async function emlOf({ to, subject, text, from, messageId, unsubscribe }: Mail): Promise<string> {
  const mail = new MailComposer({
    from: { name: from, address: `post@${keyFrom(from).replaceAll('.', '-')}.example` },
    to,
    subject,
    text: unsubscribe === undefined ? text : `${text}\n\n--\nTo hear no more from us: ${unsubscribe}\n`,
    messageId,
    ...(unsubscribe === undefined
      ? {}
      : { headers: { 'List-Unsubscribe': `<${unsubscribe}>`, 'List-Unsubscribe-Post': 'List-Unsubscribe=One-Click' } }),
  });
  return (await mail.compile().build()).toString('utf8');
}
