import type { Turned } from "../api/model";
import { useJobView } from "../job/view";
import { Choices } from "../shared/Choices";
import { Pick } from "../shared/Pick";
import { Section } from "../shared/Section";
import { LengthToken } from "../shared/Tokens";
import { length, useUnit } from "../shared/lengths";
import { FaceOrders } from "./FaceOrders";
import { TurnDrawing } from "./TurnDrawing";

const AXES: ["x" | "y", string][] = [
  ["x", "about X, the far edge comes near"],
  ["y", "about Y, the right edge comes left"],
];
const CORNERS = ["lower left", "lower right", "upper left", "upper right"].map((c): [string, string] => [
  c,
  c,
]);

/** How the sheets of a setup are turned over, and how well their faces meet. */
export function Turning() {
  const { setup, edits } = useJobView();
  if (setup.machine.head) return null;
  if (setup.turned) return <Turn turned={setup.turned} />;
  return (
    <Section title="The other face">
      <p className="label mt-1">
        Sheets that are cut from both faces are turned over with what lies on them, and come to lie where they
        lay.
      </p>
      <div className="mt-1 flex flex-wrap gap-2">
        {AXES.map(([axis, words]) => (
          <button
            key={axis}
            className="key"
            title={words}
            onClick={() => edits.run({ kind: "place-dowels", setup: setup.id, axis })}
          >
            Turn over about {axis.toUpperCase()}
          </button>
        ))}
      </div>
    </Section>
  );
}

const UP = [
  "First face up; turned over afterwards",
  "Other face up",
  "First face up once more, to be finished",
];
const SHOW = ["Show the first face", "Show the other face", "Show the first face once more"];

/** When what parts the pieces from the stock is cut: with the other face, or with the first. */
const partedWhen = (turned: Turned): [string, string][] =>
  turned.of === 3
    ? [
        ["here", "from the other face"],
        ["before", "from the first face once more"],
      ]
    : [
        ["here", "after the turn"],
        ["before", "before the turn"],
      ];

function Turn({ turned }: { turned: Turned }) {
  const { job, setup, edits, chooseSetup } = useJobView();
  const others = job.setups.filter(
    (s) => s.id !== setup.id && [turned.first, turned.other, turned.again].includes(s.id),
  );
  const change = (fields: Record<string, unknown>) =>
    edits.run({ kind: "change-turn", setup: turned.other, fields });
  const { turn } = turned;
  return (
    <section aria-label="The turn" className="mt-2 border-t border-line pt-2">
      <h3 className="font-semibold">{UP[turned.number - 1]}</h3>
      {turn.registration.kind !== "jig" && <Stock turned={turned} change={change} />}
      <Registered turned={turned} change={change} />
      <p className="mt-1">
        What lies hollow underneath{" "}
        <Pick
          label="hollows"
          value={turn.filled ? "filled" : "open"}
          options={[
            ["open", "stays open"],
            ["filled", "is filled, by a filler or a cradle"],
          ]}
          onPick={(v) => change({ filled: v === "filled" })}
        />
        .
      </p>
      <Meets turned={turned} />
      <div className="mt-2 flex flex-wrap gap-2">
        {others.map((s) => (
          <button key={s.id} className="key" onClick={() => chooseSetup(s.id)}>
            {SHOW[s.id === turned.first ? 0 : s.id === turned.other ? 1 : 2]}
          </button>
        ))}
      </div>
      {turned.number === 2 && (
        <p className="label mt-2">{setup.name} has no layout of its own: it follows from the first face.</p>
      )}
      {turned.number === 3 && (
        <p className="label mt-2">
          It has the layout, cutters and steps of the first face, and is held as is said here.
        </p>
      )}
    </section>
  );
}

/** How the stock is turned with all that lies on it, and what is cut from which face. */
function Stock({ turned, change }: { turned: Turned; change: Change }) {
  const { turn } = turned;
  return (
    <>
      <TurnDrawing turned={turned} />
      <p className="mt-1">
        Turned over <Pick label="axis" value={turn.axis} options={AXES} onPick={(axis) => change({ axis })} />
        , the{" "}
        <Pick label="marked corner" value={turn.mark} options={CORNERS} onPick={(mark) => change({ mark })} />{" "}
        corner of the first face marked. What parts the pieces from the stock is cut{" "}
        <Pick
          label="outlines"
          value={turn.outlines}
          options={[...partedWhen(turned), ["half", "half from each face"]]}
          onPick={(outlines) => change({ outlines })}
        />
        {turn.outlines === "half" && <Halves overlap={turn.overlap ?? 1} change={change} />}, holes through it{" "}
        <Pick
          label="holes"
          value={turn.holes}
          options={partedWhen(turned)}
          onPick={(holes) => change({ holes })}
        />
        .
      </p>
      <FaceOrders turned={turned} />
    </>
  );
}

/** How deep both halves of an outline go together: more than the stock, with an overlap, or less, with a web. */
function Halves({ overlap, change }: { overlap: number; change: Change }) {
  return (
    <>
      {" "}
      <Pick
        label="what is between the halves"
        value={overlap < 0 ? "web" : "overlap"}
        options={[
          ["overlap", "meeting, with an overlap of"],
          ["web", "leaving a web of"],
        ]}
        onPick={(kind) => change({ overlap: (kind === "web" ? -1 : 1) * Math.max(Math.abs(overlap), 0.5) })}
      />{" "}
      <LengthToken
        label={overlap < 0 ? "web between the halves" : "overlap of the halves"}
        mm={Math.abs(overlap)}
        onCommit={(mm) => change({ overlap: overlap < 0 ? -mm : mm })}
      />
    </>
  );
}

const KINDS: [string, string][] = [
  ["dowels", "dowels"],
  ["fences", "fence corners"],
  ["edges", "measured edges"],
  ["jig", "a jig, piece by piece"],
];

type Change = (fields: Record<string, unknown>) => void;

function Registered({ turned, change }: { turned: Turned; change: Change }) {
  const { registration } = turned.turn;
  const { job } = useJobView();
  const jigs = job.setups.find((s) => s.id === turned.other)?.machine.jigs ?? [];
  return (
    <div className="mt-2">
      <Choices
        label="Registered by"
        value={registration.kind}
        options={KINDS}
        barred={
          jigs.length
            ? {}
            : { jig: "The machine has no jig yet: enter its corner in the library, and adopt it." }
        }
        onPick={(kind) =>
          change({ registration: { "=": kind === "jig" ? { kind, jig: jigs[0].id } : { kind } } })
        }
      />
      {registration.kind === "fences" && (
        <p className="mt-1">
          The{" "}
          <Pick
            label="corner in the fences"
            value={registration.corner}
            options={CORNERS}
            onPick={(corner) => change({ registration: { corner } })}
          />{" "}
          corner lies in the fences, after the turn{" "}
          <Pick
            label="after the turn"
            value={registration.second}
            options={[
              ["same edges", "the same edges, in fences at the other side"],
              ["same corner", "whichever corner comes there"],
            ]}
            onPick={(second) => change({ registration: { second } })}
          />
          .
        </p>
      )}
      {registration.kind === "edges" && (
        <p className="label mt-1">
          All four edges are touched again after the turn; X and Y are zeroed from their middle.
        </p>
      )}
      {registration.kind === "jig" && <InTheJig turned={turned} change={change} />}
      {registration.kind === "dowels" && <Pins turned={turned} change={change} />}
    </div>
  );
}

/** Pieces that were cut out are turned one by one, each pushed into the corner of a jig. */
function InTheJig({ turned, change }: { turned: Turned; change: Change }) {
  const { job } = useJobView();
  const { turn } = turned;
  if (turn.registration.kind !== "jig") return null;
  const jigs = job.setups.find((s) => s.id === turned.other)?.machine.jigs ?? [];
  return (
    <p className="mt-1">
      Pieces are cut out on the first face and turned one by one{" "}
      <Pick label="axis" value={turn.axis} options={AXES} onPick={(axis) => change({ axis })} />, each into
      the corner of{" "}
      <Pick
        label="jig"
        value={turn.registration.jig}
        options={jigs.map((j): [string, string] => [j.id, j.name])}
        onPick={(jig) => change({ registration: { jig } })}
      />
      , its long side{" "}
      <Pick
        label="long side"
        value={turn.registration.long ?? "x"}
        options={[
          ["x", "along X"],
          ["y", "along Y"],
        ]}
        onPick={(long) => change({ registration: { long } })}
      />
      . The corner that comes into the jig is marked before a piece is cut out: the dot on the sheet.
    </p>
  );
}

function Pins({ turned, change }: { turned: Turned; change: Change }) {
  const { edits } = useJobView();
  const { unit } = useUnit();
  const { registration } = turned.turn;
  if (registration.kind !== "dowels") return null;
  const set = (id: string, fields: Record<string, unknown>) =>
    edits.run({ kind: "change-dowels", setup: turned.other, change: [{ id, fields }] });
  const dowels = registration.dowels ?? [];
  const free = () => {
    for (let n = 1; ; n++) if (!dowels.some((d) => d.id === `d${n}`)) return `d${n}`;
  };
  return (
    <>
      <p className="mt-1">
        They hold the stock{" "}
        <Pick
          label="sets of dowels"
          value={registration.sets ?? "one"}
          options={[
            ["one", "before and after the turn"],
            ["second", "only after the turn"],
          ]}
          onPick={(sets) => change({ registration: { sets } })}
        />
        ,{" "}
        <LengthToken
          label="depth in the spoilboard"
          mm={registration.below ?? 10}
          onCommit={(below) => change({ registration: { below } })}
        />{" "}
        deep in the spoilboard.
      </p>
      <ul aria-label="Dowels" className="mt-1">
        {dowels.map((d) => (
          <li key={d.id} className="flex flex-wrap items-baseline gap-x-1.5">
            <span className="label">{d.id}</span>
            <LengthToken
              label={`diameter of ${d.id}`}
              mm={d.diameter}
              onCommit={(diameter) => set(d.id, { diameter })}
            />
            by
            <LengthToken
              label={`length of ${d.id}`}
              mm={d.length}
              onCommit={(length) => set(d.id, { length })}
            />
            at
            <LengthToken label={`X of ${d.id}`} mm={d.x} onCommit={(x) => set(d.id, { x })} />,
            <LengthToken label={`Y of ${d.id}`} mm={d.y} onCommit={(y) => set(d.id, { y })} />
            <button
              className="ml-auto underline decoration-dotted"
              aria-label={`remove dowel ${d.id}`}
              onClick={() => edits.run({ kind: "change-dowels", setup: turned.other, drop: [d.id] })}
            >
              remove
            </button>
          </li>
        ))}
      </ul>
      <div className="mt-1 flex flex-wrap gap-2">
        <button
          className="key"
          onClick={() =>
            edits.run({
              kind: "change-dowels",
              setup: turned.other,
              add: [
                { id: free(), x: turned.width / 2, y: turned.height / 2, diameter: 8, fit: 0.05, length: 25 },
              ],
            })
          }
        >
          Another dowel
        </button>
        {turned.placeable && (
          <button className="key" onClick={() => edits.run({ kind: "place-dowels", setup: turned.other })}>
            Place them where they fit only as meant
          </button>
        )}
      </div>
      {turned.fits !== null && (
        <p className={`mt-1 ${turned.fits ? "" : "font-medium text-stop"}`} role="status">
          {turned.fits
            ? `It goes on only as it is meant${turned.nearest_error === null ? "" : `; ${turned.nearest}, a dowel is off its hole by ${length(turned.nearest_error, unit)}`}.`
            : `${turned.verdict}.`}
        </p>
      )}
    </>
  );
}

function Meets({ turned }: { turned: Turned }) {
  const { unit } = useUnit();
  const fine = unit === "mm" ? 2 : 4;
  if (turned.across === null || turned.through === null) return null;
  return (
    <>
      <Section title="The faces meet" figure={`within ${length(turned.across, unit, fine)}`}>
        <ul className="label mt-1">
          {[...turned.shares, ...turned.through_shares].map((s) => (
            <li key={s.what} className="flex gap-2">
              {s.what} <span className="num ml-auto">{length(s.mm, unit, fine)}</span>
            </li>
          ))}
        </ul>
      </Section>
      {turned.between.length > 0 && (
        <Section open title="Left between the faces" figure={length(turned.between[0].left, unit, fine)}>
          <ul className="label mt-1" aria-label="Left between the faces">
            {turned.between.map((b) => (
              <li key={`${b.part} ${b.front} ${b.back}`} className="flex gap-2">
                <span>
                  {b.name}: {b.front}, {b.back} on the back
                </span>
                <span className="num ml-auto">{length(b.left, unit, fine)}</span>
              </li>
            ))}
          </ul>
        </Section>
      )}
    </>
  );
}
