interface TakeOffProps {
  readonly name: string;
  readonly disabled: boolean;
  readonly onTakeOff: () => void;
}

/** Takes somebody off a fixed list, from their row. */
export const TakeOff = ({ name, disabled, onTakeOff }: TakeOffProps) => (
  <button
    type="button"
    className="quiet cursor-pointer hover:underline"
    disabled={disabled}
    aria-label={`Take ${name} off`}
    onClick={onTakeOff}
  >
    take off
  </button>
);
