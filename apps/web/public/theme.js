// Before the first paint, so that nobody who works in the dark is dazzled.
(() => {
  const chosen = localStorage.getItem('theme');
  const dark = chosen ? chosen === 'kiln' : matchMedia('(prefers-color-scheme: dark)').matches;
  document.documentElement.dataset.theme = dark ? 'kiln' : 'flour';
})();
