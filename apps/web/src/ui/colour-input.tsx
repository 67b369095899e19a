interface ColourInputProps {
  readonly label: string;
  /** undefined for the standard one */
  readonly value: string | undefined;
  readonly standard: string;
  readonly disabled?: boolean;
  readonly onChange: (value: string | undefined) => void;
}

/** Picks a colour, or goes back to the standard one. */
export function ColourInput({ label, value, standard, disabled = false, onChange }: ColourInputProps) {
  return (
    <span className="flex items-center gap-3">
      <input
        type="color"
        className="h-8 w-12 cursor-pointer disabled:cursor-default"
        aria-label={label}
        value={value ?? standard}
        disabled={disabled}
        onChange={(event) => onChange(event.target.value)}
      />
      {value !== undefined && !disabled && (
        <button type="button" className="leads min-h-6" onClick={() => onChange(undefined)}>
          take the standard one
        </button>
      )}
    </span>
  );
}

/** What pages that everybody can see have where no colour was chosen. */
export const STANDARD_COLOUR = '#5b2a4e';
