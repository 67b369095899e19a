import { useState } from 'react';

/** Light, dark, or as the system has it; kept in this browser. */
export function ThemeSwitch() {
  const [theme, setTheme] = useState(localStorage.getItem('theme') ?? '');
  const choose = (next: string): void => {
    setTheme(next);
    if (next) localStorage.setItem('theme', next);
    else localStorage.removeItem('theme');
    document.documentElement.dataset['theme'] = next || (matchMedia('(prefers-color-scheme: dark)').matches ? 'kiln' : 'flour');
  };
  return (
    <label className="flex items-center gap-2">
      <span className="quiet">Look</span>
      <select className="select select-sm w-auto" value={theme} onChange={(event) => choose(event.target.value)}>
        <option value="">as the system</option>
        <option value="flour">flour, light</option>
        <option value="kiln">kiln, dark</option>
      </select>
    </label>
  );
}
