import { useRef, useState } from "react";

import type { Edits } from "../../api/edits";
import type { Command, Judgement, Part } from "../../api/model";
import { Choice, LengthToken, NumberToken } from "../../shared/Tokens";
import { bare, useUnit } from "../../shared/lengths";
import { FacePick } from "./FacePick";

export type Surface = Extract<Judgement["alterations"][number]["value"], { kind: "made" }>;
type Form = Surface["forms"][number];
type Place = Surface["field"];
type On = NonNullable<Form["on"]>;
type Kind = NonNullable<Extract<Command, { kind: "change-forms" }>["add"]>;

export const KINDS: [Kind, string][] = [
  ["dome", "dome"],
  ["dish", "dish"],
  ["ramp", "ramp"],
  ["plateau", "plateau"],
  ["rounded edge", "rounded edge"],
  ["bead", "bead"],
  ["swept section", "swept section"],
];
const TOGETHER: [NonNullable<Form["together"]>, string][] = [
  ["add", "added to what is there"],
  ["higher", "the higher of both counts"],
  ["lower", "the lower of both counts"],
  ["cut", "taken off what is there"],
];

/** A relief made here: its field, and the forms on it in order, each with its measures where they stand. */
export function MadeHere({
  of,
  number,
  part,
  edits,
  lines,
}: {
  of: Surface;
  number: number;
  part: Part;
  edits: Edits;
  lines: Judgement["lines"];
}) {
  const picture = useRef<HTMLInputElement>(null);
  const change = (fields: Record<string, unknown>) =>
    edits.run({ kind: "change-model", part: part.id, number, fields } as Command);
  const forms = (ask: { add?: Kind; drop?: number; move?: [number, number] }) =>
    edits.run({ kind: "change-forms", part: part.id, number, ...ask });
  return (
    <section className="rule py-1 leading-[1.7]" aria-label={`Relief made here: ${of.name}`}>
      <p>
        <b className="font-semibold">{of.name}</b>, its field{" "}
        <OnPlace
          label="field"
          on={of.field}
          part={part}
          lines={lines.filter((l) => l.closed)}
          change={(field) => change({ field: { "=": field } })}
          merge={(field) => change({ field })}
        />
        ; its highest place{" "}
        <LengthToken
          label="below the face"
          mm={of.sits ?? 0}
          onCommit={(sits) => change({ sits })}
          why="uneven stock leaves flat spots where the top is at the face itself"
        />{" "}
        below the face; tips go{" "}
        <LengthToken
          label="beyond the field"
          mm={of.margin ?? 0}
          onCommit={(margin) => change({ margin })}
          why="where the rim slopes down they need room beside it; 1/4 in is usual"
        />{" "}
        beyond it; it is cut into <FacePick face={of.face} change={(face) => change({ face })} />.
      </p>
      <ol className="ml-4 list-decimal">
        {of.forms.map((f, k) => (
          <li key={k} aria-label={`Form ${k + 1}`}>
            <OneForm
              of={f}
              part={part}
              lines={lines}
              change={(fields) => change({ forms: { [k]: fields } })}
              first={k === 0}
            />{" "}
            {k > 0 && (
              <button className="underline" onClick={() => forms({ move: [k, k - 1] })}>
                before {of.forms[k - 1]!.kind}
              </button>
            )}{" "}
            {of.forms.length > 1 && (
              <button
                className="underline"
                aria-label={`Drop ${f.kind}, form ${k + 1}`}
                onClick={() => forms({ drop: k })}
              >
                drop
              </button>
            )}
          </li>
        ))}
      </ol>
      <div className="mt-1 flex flex-wrap items-baseline gap-1" role="group" aria-label="Add a form">
        <span className="label">add a</span>
        {KINDS.map(([kind, word]) => (
          <button key={kind} className="key !py-0" onClick={() => forms({ add: kind })}>
            {word}
          </button>
        ))}
        <button
          className="key !py-0"
          disabled={edits.settingModel}
          title="PNG or TIFF, white high, laid side by side"
          onClick={() => picture.current?.click()}
        >
          texture from a picture
        </button>
      </div>
      <input
        ref={picture}
        type="file"
        className="hidden"
        accept=".png,.tif,.tiff"
        aria-label="Picture of a texture"
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) edits.setModel({ part: part.id, file, into: number });
          e.target.value = "";
        }}
      />
    </section>
  );
}

type Change = (fields: Record<string, unknown>) => void;
type Of<K> = { of: Extract<Form, { kind: K }>; change: Change };

function Measure({
  label,
  field,
  mm,
  change,
}: {
  label: string;
  field: string;
  mm: number | undefined;
  change: Change;
}) {
  return <LengthToken label={label} mm={mm ?? 0} onCommit={(v) => change({ [field]: v })} />;
}

function Rise({ of, change }: { of: { rise?: number | null }; change: Change }) {
  return (
    <LengthToken
      label="rise"
      mm={of.rise ?? 0}
      unsaid={of.rise ? undefined : "all of its width"}
      why="so far from its rim it is level; cleared, it is round up to its middle"
      onCommit={(rise) => change({ rise })}
      onHouse={of.rise ? () => change({ rise: null }) : undefined}
    />
  );
}

function DomeMeasures({ of, change }: Of<"dome">) {
  return (
    <>
      <Measure label="height" field="height" mm={of.height} change={change} /> high, round from its rim over{" "}
      <Rise of={of} change={change} />
    </>
  );
}

function DishMeasures({ of, change }: Of<"dish">) {
  return (
    <>
      <Measure label="depth" field="depth" mm={of.depth} change={change} /> deep, round from its rim over{" "}
      <Rise of={of} change={change} />
    </>
  );
}

function RampMeasures({ of, change }: Of<"ramp">) {
  return (
    <>
      from <Measure label="low end" field="low" mm={of.low} change={change} /> to{" "}
      <Measure label="high end" field="high" mm={of.high} change={change} />, rising at{" "}
      <NumberToken
        label="angle"
        value={of.angle ?? 0}
        unit="°"
        digits={1}
        least={-360}
        onCommit={(angle) => change({ angle })}
        why="from the part's X"
      />
    </>
  );
}

function PlateauMeasures({ of, change }: Of<"plateau">) {
  return (
    <>
      <Measure label="height" field="height" mm={of.height} change={change} /> high, walls leaning{" "}
      <NumberToken
        label="draft"
        value={of.draft ?? 10}
        unit="°"
        digits={1}
        onCommit={(draft) => change({ draft })}
        why="0 is upright"
      />
    </>
  );
}

function BeadMeasures({ of, change }: Of<"bead">) {
  return (
    <>
      <Measure label="width" field="width" mm={of.width} change={change} /> wide,{" "}
      <Measure label="height" field="height" mm={of.height} change={change} /> high
    </>
  );
}

function TextureMeasures({ of, change }: Of<"texture">) {
  return (
    <>
      each <Measure label="width of one picture" field="tile" mm={of.tile} change={change} /> wide,{" "}
      <Measure label="height" field="height" mm={of.height} change={change} /> high
    </>
  );
}

function Measures({ of, change }: { of: Form; change: Change }) {
  switch (of.kind) {
    case "dome":
      return <DomeMeasures of={of} change={change} />;
    case "dish":
      return <DishMeasures of={of} change={change} />;
    case "ramp":
      return <RampMeasures of={of} change={change} />;
    case "plateau":
      return <PlateauMeasures of={of} change={change} />;
    case "rounded edge":
      return (
        <>
          radius <Measure label="radius" field="radius" mm={of.radius} change={change} />
        </>
      );
    case "bead":
      return <BeadMeasures of={of} change={change} />;
    case "texture":
      return <TextureMeasures of={of} change={change} />;
    case "swept section":
      return <Section of={of.section ?? []} change={(section) => change({ section: { "=": section } })} />;
  }
}

function OneForm({
  of,
  part,
  lines,
  change,
  first,
}: {
  of: Form;
  part: Part;
  lines: Judgement["lines"];
  change: Change;
  first: boolean;
}) {
  const along = of.kind === "bead" || of.kind === "swept section";
  return (
    <>
      <b className="font-medium">{of.kind === "texture" ? `texture ${of.name}` : of.kind}</b>{" "}
      {along ? "along" : "over"}{" "}
      <OnPlace
        label={`where the ${of.kind} lies`}
        on={of.on ?? { kind: "field" }}
        part={part}
        lines={along ? lines : lines.filter((l) => l.closed)}
        whole
        change={(on) => change({ on: { "=": on } })}
        merge={(on) => change({ on })}
      />
      , <Measures of={of} change={change} />
      {!first && (
        <>
          ,{" "}
          <Choice
            label="how it is put together"
            value={of.together ?? "add"}
            options={TOGETHER}
            onPick={(together) => change({ together })}
          />
        </>
      )}
      .
    </>
  );
}

/** Points of a section, across and height, as they are typed. */
function Section({ of, change }: { of: readonly (readonly number[])[]; change: (s: number[][]) => void }) {
  const { unit } = useUnit(),
    one = unit === "in" ? 25.4 : 1;
  const shown = of.map(([a, h]) => `${bare(a!, unit)} ${bare(h!, unit)}`).join(", ");
  const [text, setText] = useState<string | null>(null),
    [wrong, setWrong] = useState("");
  const commit = () => {
    if (text === null || text === shown) return setText(null);
    const rows = text
      .split(/[,;]/)
      .map((p) => p.trim())
      .filter(Boolean)
      .map((p) => p.split(/\s+/).map(Number));
    const bad = rows.findIndex((r) => r.length !== 2 || !r.every(Number.isFinite));
    if (rows.length < 2 || bad >= 0)
      return setWrong(
        bad >= 0 ? `point ${bad + 1}: two numbers are wanted, across and height` : "two points at least",
      );
    setWrong("");
    setText(null);
    change(rows.map(([a, h]) => [a! * one, h! * one]));
  };
  return (
    <span>
      section (across height, ...){" "}
      <input
        className="field w-full"
        aria-label="Section"
        value={text ?? shown}
        onChange={(e) => setText(e.target.value)}
        onBlur={commit}
        onKeyDown={(e) => {
          if (e.key === "Enter") commit();
          if (e.key === "Escape") setText(null);
        }}
      />
      {wrong && <span role="alert">{wrong}</span>}
    </span>
  );
}

/** Where a form or the field lies: the field, a line of the drawing, or a rectangle or an ellipse of its own. */
function OnPlace({
  label,
  on,
  part,
  lines,
  whole,
  change,
  merge,
}: {
  label: string;
  on: Place | On;
  part: Part;
  lines: Judgement["lines"];
  whole?: boolean;
  change: (on: Record<string, unknown>) => void;
  merge: (fields: Record<string, unknown>) => void;
}) {
  const kinds = [...new Set(lines.map((l) => l.kind))].filter(
    (k) => lines.filter((l) => l.kind === k).length > 1,
  );
  const drawn =
    on.kind === "drawn" ? (on.names.length > 1 ? `all:${kindOf(on.names, lines)}` : on.names[0]!) : on.kind;
  const options: [string, string][] = [
    ...(whole ? [["field", "the whole field"] as [string, string]] : []),
    ...lines.map((l) => [l.name, l.name === "outline" ? "the part's outline" : l.name] as [string, string]),
    ...kinds.map((k) => [`all:${k}`, `every ${k}`] as [string, string]),
    ["rectangle", "a rectangle"],
    ["ellipse", "an ellipse"],
  ];
  const [x0, y0, x1, y1] = part.box;
  const pick = (v: string) => {
    if (v === "field") return change({ kind: "field" });
    if (v === "rectangle" || v === "ellipse")
      return change({
        kind: v,
        at: [(x1 - x0) / 4, (y1 - y0) / 4],
        size: [(x1 - x0) / 2, (y1 - y0) / 2],
      });
    const names = v.startsWith("all:") ? lines.filter((l) => l.kind === v.slice(4)).map((l) => l.name) : [v];
    change({ kind: "drawn", names });
  };
  return (
    <>
      <Choice label={label} value={drawn} options={options} onPick={pick} wide />
      {on.kind === "drawn" && (
        <>
          {" "}
          <LengthToken
            label={`${label}: inset`}
            mm={on.inset ?? 0}
            onCommit={(inset) => merge({ inset })}
            why="below 0 it is larger than what is drawn"
          />{" "}
          inside
        </>
      )}
      {(on.kind === "rectangle" || on.kind === "ellipse") && (
        <>
          {" "}
          <LengthToken
            label={`${label}: width`}
            mm={on.size[0]}
            onCommit={(mm) => merge({ size: [mm, on.size[1]] })}
          />{" "}
          by{" "}
          <LengthToken
            label={`${label}: length`}
            mm={on.size[1]}
            onCommit={(mm) => merge({ size: [on.size[0], mm] })}
          />
          , from the left{" "}
          <LengthToken
            label={`${label}: from the left`}
            mm={on.at[0]}
            onCommit={(mm) => merge({ at: [mm, on.at[1]] })}
          />
          , from below{" "}
          <LengthToken
            label={`${label}: from below`}
            mm={on.at[1]}
            onCommit={(mm) => merge({ at: [on.at[0], mm] })}
          />
        </>
      )}
      {on.kind === "rectangle" && (
        <>
          , corners{" "}
          <LengthToken
            label={`${label}: corners`}
            mm={on.corner ?? 0}
            onCommit={(corner) => merge({ corner })}
            why="radius of its corners; 0 is sharp"
          />
        </>
      )}
    </>
  );
}

const kindOf = (names: readonly string[], lines: Judgement["lines"]) =>
  lines.find((l) => l.name === names[0])?.kind ?? "";
