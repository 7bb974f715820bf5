import { Tab, TabGroup, TabList } from "@headlessui/react";

type Row<T extends string> = {
  /** What the tabs choose, for who cannot see them. */
  label: string;
  tabs: readonly (readonly [T, string])[];
  value: T;
  onPick: (value: T) => void;
  /** ``line``: words on a line, over a docket; ``keys``: small keys. */
  look?: "line" | "keys";
  className?: string;
};

const LOOKS = {
  line: {
    row: "-mt-1 mb-2 flex gap-3.5 border-b border-line text-plain",
    here: "-mb-px border-b-[3px] border-accent pb-0.5 font-semibold",
    other: "-mb-px pb-0.5 text-quiet",
  },
  keys: { row: "flex flex-wrap gap-1", here: "key-strong", other: "key" },
};

/** Tabs in a row, gone through with the direction keys; what they show stands elsewhere. */
export function TabRow<T extends string>({
  label,
  tabs,
  value,
  onPick,
  look = "keys",
  className = "",
}: Row<T>) {
  const { row, here, other } = LOOKS[look];
  const at = Math.max(
    0,
    tabs.findIndex(([t]) => t === value),
  );
  return (
    <TabGroup selectedIndex={at} onChange={(i) => onPick(tabs[i][0])} className="contents">
      <TabList data-over aria-label={label} className={`${row} ${className}`}>
        {tabs.map(([t, words]) => (
          <Tab
            key={t}
            className={`max-w-full truncate not-data-focus:outline-none ${t === value ? here : other}`}
          >
            {words}
          </Tab>
        ))}
      </TabList>
    </TabGroup>
  );
}
