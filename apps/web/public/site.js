// Tells Eager Sieve which pages of a site are visited, once a visitor agrees. Nothing is kept or sent before.
//
//   <script src="https://sieve.example/site.js" defer></script>
//   sieve.agree()                 the visitor agrees: from now on their visits are told
//   sieve.refuse()                they do not, or not any more: what is not joined to anybody is forgotten
//   sieve.act('type', { … })      something of a type of your own happened
(() => {
  const script = document.currentScript;
  const server = new URL(script.src).origin;
  const KEPT = 'eager-sieve';
  const OWN = 'sieve';

  const kept = () => {
    try {
      return localStorage.getItem(KEPT);
    } catch {
      return null;
    }
  };
  const keep = (visitor) => {
    try {
      if (visitor) localStorage.setItem(KEPT, visitor);
      else localStorage.removeItem(KEPT);
    } catch {
      // A browser that keeps nothing tells each page as a new visitor's.
    }
  };
  /** A random UUID, also where the page is not served securely. */
  const newId = () => {
    const bytes = crypto.getRandomValues(new Uint8Array(16));
    bytes[6] = (bytes[6] & 0x0f) | 0x40;
    bytes[8] = (bytes[8] & 0x3f) | 0x80;
    const hex = Array.from(bytes, (byte) => byte.toString(16).padStart(2, '0')).join('');
    return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-');
  };
  let visitor = kept();

  /** By a link in a message somebody is known; the address is cleaned of it. */
  const here = new URL(location.href);
  let me = here.searchParams.get(OWN);
  if (me) {
    here.searchParams.delete(OWN);
    history.replaceState(history.state, '', here.href);
  }

  const send = (what) =>
    fetch(`${server}/site/${what.forget ? 'forget' : 'visit'}`, {
      method: 'POST',
      mode: 'cors',
      credentials: 'omit',
      keepalive: true,
      headers: { 'content-type': 'text/plain' },
      body: JSON.stringify(what),
    }).catch(() => undefined);

  const tell = (type, data) => {
    if (!visitor) return;
    const told = {
      visitor,
      id: newId(),
      type,
      data,
      timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone,
      language: navigator.language,
    };
    if (me) told.me = me;
    me = null;
    void send(told);
  };

  const visit = () => tell('page.visited', { url: here.href, path: here.pathname, title: document.title, referrer: document.referrer });

  /** Forms and files of ours that are linked or shown on the page know the visitor, so that whoever answers is known from then on. */
  const name = (element, property) => {
    if (
      !visitor ||
      !element[property] ||
      !/^\/[fd]\//.test(element[property].slice(server.length)) ||
      !element[property].startsWith(server)
    )
      return;
    const url = new URL(element[property]);
    if (url.searchParams.get('visitor') === visitor) return;
    url.searchParams.set('visitor', visitor);
    element[property] = url.href;
  };
  const nameAll = () => document.querySelectorAll('iframe').forEach((frame) => name(frame, 'src'));
  document.addEventListener('click', (event) => {
    const link = event.target instanceof Element ? event.target.closest('a[href]') : null;
    if (link) name(link, 'href');
  });

  window.sieve = {
    agree() {
      if (visitor) return;
      visitor = newId();
      keep(visitor);
      nameAll();
      visit();
    },
    refuse() {
      if (visitor) void send({ visitor, forget: true });
      visitor = null;
      keep(null);
    },
    visit,
    act: (type, data = {}) => tell(type, data),
    get agreed() {
      return visitor !== null;
    },
  };
  if (visitor) {
    nameAll();
    visit();
  }
})();
