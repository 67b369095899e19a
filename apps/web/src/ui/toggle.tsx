interface ToggleProps {
  readonly label: string;
  readonly isOn: boolean;
  readonly onChange: (isOn: boolean) => void;
}

/** Something that is on or off, beside its words. */
export function Toggle({ label, isOn, onChange }: ToggleProps) {
  return (
    <label className="inline-flex min-h-[26px] cursor-pointer items-center gap-1.5">
      <input
        type="checkbox"
        className="toggle toggle-sm toggle-primary"
        checked={isOn}
        onChange={(event) => onChange(event.target.checked)}
      />
      {label}
    </label>
  );
}
