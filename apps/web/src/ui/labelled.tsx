/** An input with its label above it, as forms in a row have them. */
export function Labelled({ label, className, children }: { label: React.ReactNode; className?: string; children: React.ReactNode }) {
  return (
    <label className={className}>
      <span className="quiet block text-[12.5px]">{label}</span>
      {children}
    </label>
  );
}
