import { groupedMoney, type Catalogue } from '@eager-sieve/core';

const isObject = (value: unknown): value is Record<string, unknown> => typeof value === 'object' && value !== null && !Array.isArray(value);
const text = (value: unknown): string => (typeof value === 'string' || typeof value === 'number' ? String(value) : '');

/** A signal in a few words for a timeline: "Celadon glaze 1 l, 48.00 SEK", the form's name, the page's title. */
export function summaryOf(type: string, data: unknown, catalogue: Catalogue): string {
  const given = isObject(data) ? data : {};
  switch (type) {
    case 'form.answered':
      return `${catalogue.find('form', text(given['form']))?.name ?? text(given['form'])}${given['unproven'] === true ? ' · by whoever typed the address' : ''}`;
    case 'order.placed':
    case 'order.refunded': {
      const items = Array.isArray(given['items']) ? given['items'].filter(isObject) : [];
      const products = items.map((item) => text(item['product'])).filter(Boolean);
      const amount = text(given['amount']);
      return [
        products.slice(0, 3).join(', ') + (products.length > 3 ? ` and ${products.length - 3} more` : ''),
        amount && `${groupedMoney(amount)} ${text(given['currency'])}`.trim(),
      ]
        .filter(Boolean)
        .join(' · ');
    }
    case 'message.sent':
    case 'message.opened':
    case 'message.clicked':
    case 'message.replied':
    case 'message.unsubscribed':
    case 'message.bounced': {
      const message = catalogue.find('message', text(given['campaign']));
      const link = message?.body.links.find((each) => each.key === given['link']);
      return [link && `“${link.label}”`, message?.name ?? text(given['campaign'])].filter(Boolean).join(' in ');
    }
    case 'page.visited':
      return text(given['title']) || text(given['path']) || text(given['url']);
    case 'event.registered':
    case 'event.attended':
      return text(given['event']);
    case 'consent.given':
    case 'consent.withdrawn':
      return text(given['channel']);
    default:
      return '';
  }
}
