type Value = string | number | boolean | null;
type Props<T extends Value> = {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onPick: (v: T) => void;
  disabled?: boolean;
  /** Why some of them cannot be chosen now. */
  barred?: Partial<Record<string, string>>;
};

/** A few words side by side, of which one holds; chosen or not they take the same room. */
export function Choices<T extends Value>({ label, value, options, onPick, disabled, barred }: Props<T>) {
  return (
    <div className="flex flex-wrap gap-1.5" role="group" aria-label={label}>
      {options.map(([v, text]) => (
        <button
          key={String(v)}
          className={v === value ? "key-strong" : "key"}
          aria-pressed={v === value}
          disabled={disabled || barred?.[String(v)] !== undefined}
          title={barred?.[String(v)]}
          onClick={() => onPick(v)}
        >
          {text}
        </button>
      ))}
    </div>
  );
}
