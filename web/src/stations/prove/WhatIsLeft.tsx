import { useState } from "react";

import type { Edits } from "../../api/edits";
import type { Left, LeftRemedies } from "../../api/model";
import { useJobView } from "../../job/view";
import { Section } from "../../shared/Section";
import { inUnit } from "../../shared/Tokens";
import { length, useUnit } from "../../shared/lengths";
import { useLeft, useLeftRemedies } from "./asCut";

/** Pixels to a millimetre at which a place is shown. */
const NEAR = 9;

/** What stands where the drawing wants nothing: alike places in a line, each shown in turn. */
export function WhatIsLeft({ edits }: { edits: Edits }) {
  const left = useLeft(),
    mend = useLeftRemedies(!!left.data?.length);
  if (left.error)
    return (
      <p role="alert" className="mt-3 text-stop">
        {left.error.message}
      </p>
    );
  if (!left.data) return null;
  const lines = alike(left.data);
  return (
    <Section
      title="What is left standing"
      figure={left.data.length ? `${left.data.length} places` : "nothing"}
      open={left.data.length > 0}
      strong
    >
      {left.data.length === 0 ? (
        <p className="label">
          Beside every contour, tabs apart, and on every floor the sheet is cut as deep as it should be.
        </p>
      ) : (
        <ul>
          {lines.map((g) => (
            <OneLine
              key={keyOf(g[0])}
              places={g}
              edits={edits}
              mend={mend.data?.find((m) => same(m, g[0]))}
            />
          ))}
        </ul>
      )}
    </Section>
  );
}

type LineProps = { places: Left[]; mend?: LeftRemedies; edits: Edits };

function OneLine({ places, mend, edits }: LineProps) {
  const { unit } = useUnit(),
    { look } = useJobView();
  const [next, setNext] = useState(0);
  const show = () => {
    look.keep({ on: places[next % places.length].at, k: NEAR });
    setNext(next + 1);
  };
  const first = places[0],
    long = Math.max(...places.map((p) => p.length)),
    high = Math.max(...places.map((p) => p.height));
  return (
    <li className="rule flex flex-wrap items-baseline gap-x-2 gap-y-1 py-0.5 text-small">
      <span className="min-w-0 flex-1">
        <b className="font-semibold">{first.name}</b>, {first.contour}: {places.length}{" "}
        {WORDS[first.kind](places.length)}, up to {length(long, unit)}{" "}
        {first.kind === "floor" ? "across" : "along"},{" "}
        {first.through ? "as high as the sheet" : `${length(high, unit)} high`}
      </span>
      <button
        className="key ml-auto shrink-0 !py-0"
        onClick={show}
        aria-label={`Show ${first.name}, ${first.contour}`}
      >
        show{places.length > 1 && next > 0 ? ` ${((next - 1) % places.length) + 1}` : ""}
      </button>
      {mend?.remedies.map((r) => (
        <p key={r.label} className="flex basis-full flex-wrap items-baseline gap-x-2">
          <button className="key !py-0" disabled={edits.busy} onClick={() => edits.run(r.command)}>
            {inUnit(r.label, unit)}
          </button>
          {r.trades && <span className="label basis-full">then: {inUnit(r.trades, unit)}</span>}
        </p>
      ))}
    </li>
  );
}

const s = (n: number) => (n === 1 ? "" : "s");
const WORDS: Record<Left["kind"], (n: number) => string> = {
  corner: (n) => `corner${s(n)}`,
  beside: (n) => `contour${s(n)} all along`,
  floor: (n) => `floor${s(n)}`,
};

const same = (m: LeftRemedies, p: Left) => m.kind === p.kind && m.part === p.part && m.contour === p.contour;
const keyOf = (p: Left) => `${p.part}/${p.contour}/${p.kind}/${p.through}`;

/** Places of one part, contour and kind together, in the order in which they came. */
function alike(places: Left[]): Left[][] {
  const by = new Map<string, Left[]>();
  for (const p of places) by.set(keyOf(p), [...(by.get(keyOf(p)) ?? []), p]);
  return [...by.values()];
}
