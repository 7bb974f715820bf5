import type { Datum, Setup } from "../../api/model";
import { Section } from "../../shared/Section";
import { Choice, LengthToken, NumberToken } from "../../shared/Tokens";
import { inUnit } from "../../shared/Tokens";
import { useUnit } from "../../shared/lengths";

type Kind = Datum["kind"];
type Corner = Extract<Datum, { kind: "corner" }>["corner"];
type Props = {
  setup: Setup;
  set: (f: { datum?: Datum; z_zero?: "top" | "bed" }) => void;
  /** The next click on the table says where it is. */
  clicking: boolean;
  onClicking: (on: boolean) => void;
};

const CORNERS: Corner[] = ["lower left", "lower right", "upper left", "upper right"];
const WORDS: Record<Kind, string> = {
  corner: "a corner of the sheet",
  centre: "the centre of the sheet",
  mark: "a place on the sheet",
  square: "a square of the table's grid",
  jig: "a jig",
  home: "machine home",
};
const MARKS = ["pencilled point", "hole", "cross"] as const;
const SHORT: Record<Kind, (d: Datum) => string> = {
  corner: (d) => (d.kind === "corner" ? d.corner : ""),
  centre: () => "centre",
  mark: (d) => (d.kind === "mark" ? d.what : ""),
  square: (d) => (d.kind === "square" ? `column ${d.column}, row ${d.row}` : ""),
  jig: () => "jig",
  home: () => "home",
};

/** Where X0 Y0 and Z0 lie, with the words by which they are touched off. */
export function Zero({ setup, set, clicking, onClicking }: Props) {
  const { unit } = useUnit(),
    d = setup.datum,
    stock = setup.stock[0];
  const kinds = (Object.keys(WORDS) as Kind[]).filter(
    (k) => (k !== "square" || setup.machine.grid) && (k !== "jig" || setup.machine.jigs.length > 0),
  );
  const put = (kind: Kind) =>
    set({
      datum: {
        corner: { kind: "corner", corner: "lower left" },
        centre: { kind: "centre" },
        mark: {
          kind: "mark",
          what: "pencilled point",
          at: [(stock?.width ?? 0) / 2, (stock?.height ?? 0) / 2],
        },
        square: { kind: "square", column: 1, row: 1 },
        jig: { kind: "jig", jig: setup.machine.jigs[0]?.id ?? "" },
        home: { kind: "home" },
      }[kind] as Datum,
    });
  return (
    <Section
      strong
      title="Zero"
      figure={`X Y ${SHORT[d.kind](d)}${setup.machine.head ? "" : `, Z ${setup.z_zero}`}`}
    >
      <p className="mt-1">
        X0 Y0 at <Choice label="zero" value={d.kind} options={kinds.map((k) => [k, WORDS[k]])} onPick={put} />
        <Details setup={setup} set={(datum) => set({ datum })} />
      </p>
      {d.kind === "mark" && (
        <p className="mt-1">
          <button
            className={clicking ? "key-strong" : "key"}
            aria-pressed={clicking}
            onClick={() => onClicking(!clicking)}
          >
            {clicking ? "Click the place on the sheet" : "Click it on the sheet"}
          </button>
        </p>
      )}
      <p className="label" data-testid="touch-off">
        To set it: {inUnit(setup.touch_off, unit)}.
      </p>
      {!setup.machine.head && <ZZero setup={setup} set={set} />}
    </Section>
  );
}

/** Where Z 0 is: on a kerf table there is none. */
function ZZero({ setup, set }: { setup: Setup; set: (f: { z_zero?: "top" | "bed" }) => void }) {
  return (
    <>
      <div className="mt-1 flex flex-wrap gap-1.5">
        {(["top", "bed"] as const).map((z) => (
          <button
            key={z}
            className={setup.z_zero === z ? "key-strong" : "key"}
            aria-pressed={setup.z_zero === z}
            onClick={() => set({ z_zero: z })}
          >
            Z on the {z}
          </button>
        ))}
      </div>
      <p className="label mt-1">
        {setup.z_zero === "top"
          ? "Z at the top: an error in thickness goes into the spoilboard."
          : "Z on the bed: through cuts are exact; an error in thickness goes into pocket depth."}
      </p>
    </>
  );
}

/** Which corner, where on the sheet, which square or jig. */
function Details({ setup, set }: { setup: Setup; set: (d: Datum) => void }) {
  const d = setup.datum;
  if (d.kind === "corner")
    return (
      <>
        :{" "}
        <Choice
          label="corner"
          value={d.corner}
          options={CORNERS.map((c) => [c, c])}
          onPick={(corner) => set({ ...d, corner })}
        />
      </>
    );
  if (d.kind === "mark")
    return (
      <>
        : a{" "}
        <Choice
          label="what is seen there"
          value={d.what}
          options={MARKS.map((m) => [m, m])}
          onPick={(what) => set({ ...d, what })}
        />{" "}
        <LengthToken label="zero X" mm={d.at[0]} onCommit={(x) => set({ ...d, at: [x, d.at[1]] })} /> right,{" "}
        <LengthToken label="zero Y" mm={d.at[1]} onCommit={(y) => set({ ...d, at: [d.at[0], y] })} /> up from
        the lower left corner
      </>
    );
  if (d.kind === "square")
    return (
      <>
        : column{" "}
        <NumberToken
          label="column"
          value={d.column}
          least={1}
          onCommit={(v) => set({ ...d, column: Math.round(v) })}
        />
        , row{" "}
        <NumberToken
          label="row"
          value={d.row}
          least={1}
          onCommit={(v) => set({ ...d, row: Math.round(v) })}
        />
      </>
    );
  if (d.kind === "jig")
    return (
      <>
        :{" "}
        <Choice
          label="jig"
          value={d.jig}
          options={setup.machine.jigs.map((j) => [j.id, j.name])}
          onPick={(jig) => set({ ...d, jig })}
        />
      </>
    );
  return null;
}
