/** What lists of the screen have in common. */
export const LOOK = {
  /** A word in a sentence. */
  token:
    "cursor-pointer border-b border-dotted border-ink bg-transparent px-0 text-left font-medium leading-[1.3]",
  /** A field of a form. */
  field: "field cursor-pointer !font-sans text-left",
  /** A key that opens a list of what can be added. */
  key: "key",
} as const;

export type PickProps<V extends string> = {
  label: string;
  value: V | "";
  options: readonly (readonly [V, string])[];
  onPick: (v: V) => void;
  /** Shown where none of the options holds. */
  placeholder?: string;
  look?: keyof typeof LOOK;
  className?: string;
};

export const OPTIONS =
  "z-50 max-h-72 max-w-[min(26rem,94vw)] overflow-y-auto border border-ink bg-[#fffdf8] py-1 shadow-md focus:outline-none";
export const OPTION =
  "min-h-6 cursor-pointer px-2.5 py-1 text-small data-focus:bg-accent-soft data-selected:font-semibold";

/** What a list shows while it is closed. */
export const shownOf = <V extends string>({ value, options, placeholder }: PickProps<V>) =>
  options.find(([v]) => v === value)?.[1] ?? placeholder ?? value;
