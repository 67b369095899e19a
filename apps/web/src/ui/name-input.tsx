interface NameInputProps {
  /** what is named, such as "rule" */
  readonly thing: string;
  readonly value: string;
  readonly readOnly: boolean;
  readonly onChange: (name: string) => void;
  /** as wide as the name, where something follows it on the same line */
  readonly fitted?: boolean;
}

/** The name of a definition, as the heading of its page. */
export function NameInput({ thing, value, readOnly, onChange, fitted = false }: NameInputProps) {
  return (
    <input
      aria-label={`Name of the ${thing}`}
      readOnly={readOnly}
      className={`font-display bg-transparent font-semibold ${fitted ? 'max-w-full min-w-24 [field-sizing:content]' : 'w-full min-w-0'}`}
      value={value}
      placeholder={`New ${thing}`}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}
