import type { Edits } from "../api/edits";
import { type Job, type Setup, type Snag, clock, snagsOf } from "../api/model";
import { useLibrary } from "../api/queries";
import { Frame } from "../job/Frame";
import { JobTable } from "../job/JobTable";
import { useJobView } from "../job/view";
import { Section } from "../shared/Section";
import { Snags } from "../shared/Snags";
import { Choice, LengthToken, NumberToken, Told, Why } from "../shared/Tokens";
import { length, metres, quantity, useUnit } from "../shared/lengths";
import { many } from "../shared/many";
import { Coupon } from "./Coupon";
import { KerfLayer } from "./KerfLayer";
import { type Kerf, type KerfSheet, useKerfSheet } from "./useKerf";

type Choices = Kerf["choices"];
type Change = (fields: {
  [K in keyof Choices]?: Choices[K] extends object ? Partial<Choices[K]> : Choices[K];
}) => void;

/** How a setup on a kerf table is cut: head, leads, corners, tabs, hops, order. */
export function KerfCuts() {
  const { job, setup, edits, time } = useJobView();
  const { kerf, sheet, earlier, wrong } = useKerfSheet();
  return (
    <Frame
      board={<JobTable layer={(k) => sheet && <KerfLayer sheet={sheet} k={k} time={time} hops />} />}
      docket={
        wrong && !kerf ? (
          <NoHead setup={setup} edits={edits} says={wrong} />
        ) : kerf ? (
          <Docket {...{ job, setup, edits, kerf, sheet, earlier }} />
        ) : (
          <p role="status">reading the kerfs ...</p>
        )
      }
    />
  );
}

type Props = { job: Job; setup: Setup; edits: Edits; kerf: Kerf; sheet?: KerfSheet; earlier: boolean };

function Docket({ job, setup, edits, kerf, sheet, earlier }: Props) {
  const { select } = useJobView();
  const change: Change = (fields) => edits.run({ kind: "change-kerf", setup: setup.id, fields });
  const snags = snagsOf("cuts", setup);
  const find = (s: Snag) =>
    select((s.where?.piece as string) ?? setup.pieces.find((p) => p.part === s.where?.part)?.id ?? null);
  return (
    <>
      <div className="flex items-baseline justify-between gap-2">
        <h2 className="text-figure font-semibold">How it is cut</h2>
        {earlier && (
          <span role="status" className="label whitespace-nowrap">
            worked out anew ...
          </span>
        )}
      </div>
      <HeadSaid kerf={kerf} change={change} edits={edits} />
      <Leads kerf={kerf} change={change} />
      <Between kerf={kerf} change={change} />
      {sheet && <Figures sheet={sheet} />}
      {snags.length > 0 && <Snags snags={snags} edits={edits} onFind={find} />}
      <Section title="Corners and small holes" figure={kerf.choices.corners}>
        <Corners kerf={kerf} change={change} />
      </Section>
      <Section title="Coupon: measure and correct the kerf">
        <Coupon job={job} setup={setup} kerf={kerf} edits={edits} />
      </Section>
      <Cautions says={kerf.cautions} />
    </>
  );
}

/** Without a head setting nothing can be cut: those of the library that fit the table. */
function NoHead({ setup, edits, says }: { setup: Setup; edits: Edits; says: string }) {
  const fitting = useLibrary().data?.head.filter((h) => h.process === setup.machine.head?.process) ?? [];
  return (
    <>
      <p role="alert" className="text-stop">
        {says}
      </p>
      <div className="mt-2 flex flex-wrap gap-1.5">
        {fitting.map((head) => (
          <button
            key={head.id}
            className="key"
            onClick={() => edits.run({ kind: "adopt-head", setup: setup.id, head, use: true })}
          >
            Cut with {head.name}
          </button>
        ))}
      </div>
    </>
  );
}

/** The head setting that cuts, among the job's own and those of the library. */
function HeadChoice({ kerf, change, edits }: { kerf: Kerf; change: Change; edits: Edits }) {
  const others =
    useLibrary().data?.head.filter(
      (h) => h.process === kerf.process && !kerf.heads.some((k) => k.id === h.id),
    ) ?? [];
  return (
    <Choice
      label="head setting"
      value={kerf.head?.id ?? ""}
      options={[...kerf.heads, ...others].map((h): [string, string] => [h.id, h.name])}
      onPick={(id) => {
        const head = others.find((h) => h.id === id);
        if (head) edits.run({ kind: "adopt-head", setup: kerf.setup, head, use: true });
        else change({ head: id });
      }}
    />
  );
}

/** The nozzle, what its chart says, and where that comes from. */
function HeadSaid({ kerf, change, edits }: { kerf: Kerf; change: Change; edits: Edits }) {
  const { unit } = useUnit();
  return (
    <p className="mt-1">
      <HeadChoice kerf={kerf} change={change} edits={edits} />
      {kerf.head && <>, nozzle bore {length(kerf.head.nozzle, unit)}</>}, leaves a{" "}
      <b className="font-semibold">kerf</b> of{" "}
      <Why text={kerf.source}>
        <Told>{length(kerf.kerf, unit)}</Told>
      </Why>{" "}
      at{" "}
      <Why text={kerf.source}>
        <Told>{quantity(kerf.feed, "feed", unit)}</Told>
      </Why>
      {kerf.process === "fluid jet" && (
        <>
          , edge quality{" "}
          <Choice
            label="edge quality"
            value={String(kerf.choices.level ?? "")}
            options={[
              ["", `as the house rules start, ${kerf.level}`],
              ...QUALITY.map((q, i): [string, string] => [String(i + 1), q]),
            ]}
            onPick={(n) => change({ level: n ? Number(n) : null })}
          />
        </>
      )}
      ;{" "}
      {kerf.pierce === null
        ? "too thick to pierce: it begins at the edge"
        : `pierces take ${kerf.pierce.toFixed(2)} s`}
      {kerf.pierce !== null && (
        <>
          ,{" "}
          <Choice
            label="when it is pierced"
            value={kerf.choices.pre_pierce ? "first" : "each"}
            options={[
              ["each", "each just before its cut"],
              ["first", "all of them before anything is cut"],
            ]}
            onPick={(v) => change({ pre_pierce: v === "first" })}
          />
        </>
      )}
      .
    </p>
  );
}
const QUALITY = ["1, parted only", "2", "3, usual", "4", "5, finest"];

function Leads({ kerf, change }: { kerf: Kerf; change: Change }) {
  const { unit } = useUnit(),
    c = kerf.choices;
  return (
    <p className="mt-1.5">
      <b className="font-semibold">Leads</b> in are{" "}
      <Choice
        label="kind of lead"
        value={c.lead_kind}
        options={[
          ["straight", "straight"],
          ["arc", "arcs"],
        ]}
        onPick={(lead_kind) => change({ lead_kind })}
      />{" "}
      from{" "}
      <LengthToken
        label="lead"
        mm={c.lead}
        onCommit={(lead) => change({ lead })}
        why="from the kerf's middle line to the pierce; shortened, turned or moved where it finds no room, and said so"
      />{" "}
      aside, at{" "}
      <NumberToken
        label="angle of the lead"
        value={c.lead_angle}
        unit="°"
        onCommit={(lead_angle) => change({ lead_angle })}
      />{" "}
      and{" "}
      <NumberToken
        label="feed of leads"
        value={c.lead_share}
        scale={100}
        unit=" %"
        onCommit={(lead_share) => change({ lead_share })}
        why="of the cut's feed; a third is usual"
      />{" "}
      of the feed, {quantity(kerf.lead_feed, "feed", unit)}; out{" "}
      <Choice
        label="lead-out"
        value={c.lead_out}
        options={[
          ["none", "there is none"],
          ["short", "a short one"],
          ["overburn", "overburnt"],
        ]}
        onPick={(lead_out) => change({ lead_out })}
      />
      {c.lead_out !== "none" && (
        <>
          ,{" "}
          <LengthToken
            label="length out"
            mm={c.out_length}
            onCommit={(out_length) => change({ out_length })}
          />{" "}
          long
          {", "}at{" "}
          <NumberToken
            label="feed of lead-outs"
            value={c.out_share ?? 1}
            scale={100}
            unit=" %"
            onCommit={(out_share) => change({ out_share })}
          />{" "}
          of the feed
        </>
      )}
      .
    </p>
  );
}

/** Tabs, hops, common lines, and the order. */
function Between({ kerf, change }: { kerf: Kerf; change: Change }) {
  const { unit } = useUnit(),
    c = kerf.choices;
  return (
    <>
      <p className="mt-1.5">
        <b className="font-semibold">Tabs</b>:{" "}
        <NumberToken
          label="tabs"
          value={c.tabs.count ?? 0}
          onCommit={(count) => change({ tabs: { count } })}
        />{" "}
        of{" "}
        <LengthToken
          label="width of a tab"
          mm={c.tabs.width ?? 0.25}
          onCommit={(width) => change({ tabs: { width } })}
        />{" "}
        in every outline, or one every{" "}
        <LengthToken
          label="a tab every"
          mm={c.tabs.every ?? 0}
          onCommit={(every) => change({ tabs: { every } })}
          why="along the outline, where that makes more; 0: by count alone"
        />
        .
      </p>
      <p className="mt-1.5">
        <b className="font-semibold">Between cuts</b> the head{" "}
        {c.hop ? "stays down, off, for hops up to " : "always lifts; it could stay down for hops up to "}
        <LengthToken
          label="longest hop"
          mm={c.hop}
          onCommit={(hop) => change({ hop })}
          why="never over what is loose; 0: it always lifts"
        />
        . Pieces keep {length(kerf.room, unit)}
        {c.common_line ? ", one kerf: " : "; "}
        <Choice
          label="common lines"
          value={c.common_line ? "common" : "single"}
          options={[
            ["single", "every part has its own line"],
            ["common", "shared edges are cut once"],
          ]}
          onPick={(v) => change(v === "common" ? { common_line: true, bridge: 0 } : { common_line: false })}
        />
        .
      </p>
      {!c.common_line && (
        <p className="mt-1.5">
          <b className="font-semibold">Bridges</b>:{" "}
          {c.bridge ? "neighbours are joined by " : "none; neighbours could be joined by "}
          <LengthToken
            label="width of a bridge"
            mm={c.bridge ?? 0}
            onCommit={(bridge) => change({ bridge })}
            why="of metal that is broken off at the bench; 0: every part has its own line"
          />{" "}
          of metal, up to{" "}
          <NumberToken
            label="parts in a row"
            value={c.bridge_most ?? 6}
            onCommit={(bridge_most) => change({ bridge_most })}
          />{" "}
          in one pierce.
        </p>
      )}
      <p className="mt-1.5">
        <b className="font-semibold">Beside the parts</b>{" "}
        <Choice
          label="cut beside the parts"
          value={c.cut_up ?? "none"}
          options={[
            ["none", "nothing is cut"],
            ["remnant", "the remnant is parted off last"],
            ["skeleton", "the skeleton is cut up, the remnant parted off"],
          ]}
          onPick={(cut_up) => change({ cut_up })}
        />
        {c.cut_up === "skeleton" && (
          <>
            , every{" "}
            <LengthToken
              label="skeleton lines every"
              mm={c.cut_up_every ?? 400}
              onCommit={(cut_up_every) => change({ cut_up_every })}
            />
          </>
        )}
        .
      </p>
      <p className="mt-1.5">
        <b className="font-semibold">Order</b>:{" "}
        <Choice
          label="order"
          value={c.order}
          options={ORDERS.map((o): [Choices["order"], string] => [o, o])}
          onPick={(order) => change({ order })}
        />
        .
      </p>
    </>
  );
}
const ORDERS = ["insides first", "piece by piece", "small parts first", "heat spread"] as const;

function Corners({ kerf, change }: { kerf: Kerf; change: Change }) {
  const c = kerf.choices;
  return (
    <>
      <p>
        Sharp outside corners are{" "}
        <Choice
          label="corners"
          value={c.corners}
          options={[
            ["through", "gone round at full feed"],
            ["slow", "slowed"],
            ["loop", "looped past"],
          ]}
          onPick={(corners) => change({ corners })}
        />
        {c.corners === "slow" && (
          <>
            {" "}
            to{" "}
            <NumberToken
              label="feed in corners"
              value={c.corner_to}
              scale={100}
              unit=" %"
              onCommit={(corner_to) => change({ corner_to })}
            />
          </>
        )}
        {c.corners === "loop" && (
          <>
            , <LengthToken label="loop" mm={c.loop} onCommit={(loop) => change({ loop })} /> beyond
          </>
        )}
        . The height is not followed within{" "}
        <LengthToken
          label="height kept"
          mm={c.still}
          onCommit={(still) => change({ still })}
          why="of corners, and of where a cut comes back to its own kerf"
        />{" "}
        of them.
      </p>
      <p className="mt-1">
        Holes under{" "}
        <NumberToken
          label="slow holes"
          value={c.holes.slow_below ?? 1.5}
          digits={1}
          onCommit={(slow_below) => change({ holes: { slow_below } })}
        />{" "}
        thicknesses are cut at{" "}
        <NumberToken
          label="feed in small holes"
          value={c.holes.slow_to ?? 0.6}
          scale={100}
          unit=" %"
          onCommit={(slow_to) => change({ holes: { slow_to } })}
        />
        , under{" "}
        <NumberToken
          label="drilled holes"
          value={c.holes.drill_below ?? 1}
          digits={1}
          onCommit={(drill_below) => change({ holes: { drill_below } })}
        />{" "}
        only pierced for the drill.
      </p>
    </>
  );
}

/** What the sheet comes to, with what moves the estimate. */
export function Figures({ sheet }: { sheet: KerfSheet }) {
  const { unit } = useUnit();
  return (
    <dl
      className="mt-2 grid grid-cols-[auto_minmax(0,1fr)] gap-x-3 border-y border-line py-1"
      aria-label="Figures of the sheet"
    >
      <Fact what="pierces" says={many(sheet.pierces, "pierce")} />
      <Fact what="head on" says={`${metres(sheet.cut_length, unit)}, ${clock(sheet.head_on)}`} />
      <Fact
        what="between"
        says={`${metres(sheet.hop_length, unit)} down, ${metres(sheet.lift_length, unit)} lifted`}
      />
      <Fact what="time" says={`about ${clock(sheet.seconds)}; hardness and a worn nozzle move it`} />
      <Fact
        what="warmth"
        says={`${sheet.warmest.toFixed(1)} s of arc at the warmest start, ${sheet.warm.toFixed(2)} in the mean`}
      />
      {sheet.rows > 0 && <Fact what="bridged" says={many(sheet.rows, "row")} />}
      {sheet.saved > 0 && (
        <Fact what="shared" says={`${metres(sheet.saved, unit)} cut once in place of twice`} />
      )}
    </dl>
  );
}

const Fact = ({ what, says }: { what: string; says: string }) => (
  <>
    <dt className="label">{what}</dt>
    <dd className="num">{says}</dd>
  </>
);

export const Cautions = ({ says }: { says: string[] }) => (
  <ul className="label mt-4 border-t border-line pt-2" aria-label="Cautions">
    {says.map((s) => (
      <li key={s}>{s}</li>
    ))}
  </ul>
);
