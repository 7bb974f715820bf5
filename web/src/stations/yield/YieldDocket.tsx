import { clock, type Job, type Setup } from "../../api/model";
import { Save } from "../../shared/Save";
import { Section } from "../../shared/Section";
import { metres, squareMetres, type Unit, useUnit } from "../../shared/lengths";
import { money } from "../../shared/money";
import { KINDS } from "./kinds";
import { type JobUse, type SetupUse, useYield } from "./useYield";

/** Definitions of how well material is used: shops mean one or the other. */
const DEFINED: [string, string, string][] = [
  ["parts_of_sheet", "parts of the sheets", "area of the parts, less their holes, over the sheets"],
  ["parts_of_used", "parts of what is used up", "the same over the sheets less the remnants kept"],
  ["outlines_of_sheet", "outlines of the sheets", "area within the outlines, holes and all, over the sheets"],
  ["parts_of_length", "parts of the length used", "area of the parts over the sheets up to the last piece"],
  ["parts_by_mass", "finished mass of the sheets", "mass as it comes off the machine over mass bought"],
];

const mass = (kg: number, unit: Unit) =>
  unit === "mm" ? `${kg.toFixed(kg < 10 ? 2 : 1)} kg` : `${(kg / 0.45359237).toFixed(kg < 10 ? 2 : 1)} lb`;

export function YieldDocket({ job, setup }: { job: Job; setup: Setup }) {
  const found = useYield(job);
  const mine = found.data?.setups.find((s) => s.setup === setup.id);
  return (
    <>
      <h2 className="text-figure font-semibold">What the job uses</h2>
      {found.isFetching && (
        <p role="status" className="label">
          working it out ...
        </p>
      )}
      <Quick setup={setup} />
      {mine && <Cost mine={mine} setup={setup} />}
      {mine && <Why mine={mine} />}
      {mine && <Definitions mine={mine} />}
      {mine && <Masses mine={mine} recycled={setup.material.recycled_as} />}
      {found.data && found.data.orders.length > 1 && <Orders use={found.data} />}
      {found.data && <Papers job={job} use={found.data} />}
    </>
  );
}

function Rows({ rows }: { rows: [string, string][] }) {
  return (
    <dl className="mt-1 grid grid-cols-[1fr_auto] gap-x-3">
      {rows.map(([k, v]) => (
        <div key={k} className="contents">
          <dt className="label rule py-1">{k}</dt>
          <dd className="num rule py-1 text-right">{v}</dd>
        </div>
      ))}
    </dl>
  );
}

function Quick({ setup }: { setup: Setup }) {
  const { unit } = useUnit();
  const y = setup.yields;
  const gap = y.sheets.length - y.bound;
  return (
    <Rows
      rows={[
        ["pieces", String(y.pieces)],
        [
          "sheets",
          gap > 0 ? `${y.sheets.length}, no fewer than ${y.bound}` : `${y.sheets.length}, none fewer will do`,
        ],
        ["bought", squareMetres(y.sheet_area, unit)],
        ["in the parts", `${squareMetres(y.net_area, unit)}, ${(y.utilisation * 100).toFixed(1)} %`],
        ["length of cut", metres(y.cut_length, unit)],
        ["machine time", clock(y.seconds)],
      ]}
    />
  );
}

function Cost({ mine, setup }: { mine: SetupUse; setup: Setup }) {
  const { cost } = mine,
    { currency } = setup.rules;
  const pieces = mine.use.pieces;
  return (
    <Section
      strong
      open
      title="Cost"
      figure={cost.total === null ? `${money(cost.known, currency)} +` : money(cost.total, currency)}
    >
      <Rows
        rows={[
          ...cost.lines.map((l): [string, string] => [
            l.of,
            l.sum === null ? "no price yet" : money(l.sum, currency),
          ]),
          [
            "a piece, on average",
            cost.total === null ? "-" : money(cost.total / Math.max(1, pieces), currency),
          ],
        ]}
      />
      {cost.lines.some((l) => l.lacks.length > 0) && (
        <p className="mt-1 text-small">
          No price yet: {[...new Set(cost.lines.flatMap((l) => l.lacks))].join(", ")}. Cutters, machines,
          materials and an hour of work get theirs in the library.
        </p>
      )}
    </Section>
  );
}

/** Why there are as many sheets as there are: what each kind takes, counted in sheets. */
function Why({ mine }: { mine: SetupUse }) {
  const { use, least, in_sheets: took } = mine;
  if (!use.sheets) return null;
  return (
    <Section
      title={use.sheets > least ? "Why not fewer sheets" : "What the sheets go for"}
      figure={`${use.sheets} of at least ${least}`}
    >
      <Rows
        rows={KINDS.map((k): [string, string] => [
          k === "parts" ? "the parts alone fill" : k,
          `${took[k].toFixed(2)} sheets`,
        ])}
      />
      {use.sheets > least && (
        <p className="label mt-1">
          Fewer would need {(use.sheets - least).toFixed(0)} sheet{use.sheets - least === 1 ? "" : "s"} out of
          what is not parts: a longer search, a smaller web or margin, parts turned more freely, or parts laid
          in holes.
        </p>
      )}
    </Section>
  );
}

function Definitions({ mine }: { mine: SetupUse }) {
  const u = mine.use.utilisation;
  return (
    <Section title="How well it is used, by each definition">
      <dl className="mt-1 grid grid-cols-[1fr_auto] gap-x-3">
        {DEFINED.map(([key, name, says]) => (
          <div key={key} className="contents">
            <dt className="rule py-1">
              {name}
              <span className="label block">{says}</span>
            </dt>
            <dd className="num rule py-1 text-right">{(u[key] * 100).toFixed(1)} %</dd>
          </div>
        ))}
      </dl>
    </Section>
  );
}

function Masses({ mine, recycled }: { mine: SetupUse; recycled: string }) {
  const { unit } = useUnit();
  const { use } = mine;
  const rows: [string, string][] = [
    ["sheets", mass(use.mass_kg.sheet, unit)],
    ...KINDS.map((k): [string, string] => [k, mass(use.mass_kg[k], unit)]),
    ["pockets, out of the parts", mass(use.mass_kg.pockets, unit)],
    ["tabs and skins", mass(use.mass_kg.tabs, unit)],
    [
      "chips",
      unit === "mm"
        ? `${use.chips_l.toFixed(2)} l solid`
        : `${(use.chips_l * 61.0237).toFixed(0)} cu in solid`,
    ],
    [
      "volume of the sheets",
      unit === "mm" ? `${use.volume_m3.toFixed(4)} m³` : `${(use.volume_m3 * 35.3147).toFixed(2)} cu ft`,
    ],
  ];
  if (use.board_feet != null) rows.push(["board feet", use.board_feet.toFixed(1)]);
  if (mine.gauge) rows.push(["gauge", mine.gauge]);
  return (
    <Section title="Mass and volume" figure={mass(use.mass_kg.sheet, unit)}>
      <Rows rows={rows} />
      {(mine.family === "plastic" || recycled) && (
        <p className="label mt-1">
          {recycled ? `Off-cuts go to: ${recycled}. ` : ""}
          Off-cuts of one sort kept apart can be made into something again; mixed they cannot.
        </p>
      )}
    </Section>
  );
}

function Papers({ job, use }: { job: Job; use: JobUse }) {
  const { unit } = useUnit();
  const at = `/jobs/${job.id}`;
  return (
    <Section strong open title="On paper">
      <div className="mt-1 flex flex-wrap gap-1.5">
        <Save address={`${at}/yield-report.pdf?unit=${unit}`} words="Yield report" />
        <Save address={`${at}/quotation.pdf`} words="Quotation" />
        <Save address={`${at}/quotation.csv`} words="Quotation as table" />
      </div>
      {use.lacks.length > 0 && <p className="label mt-1">A quotation waits until everything has a price.</p>}
    </Section>
  );
}

/** What each customer's order takes, where several share the sheets. */
function Orders({ use }: { use: JobUse }) {
  const { unit } = useUnit();
  return (
    <Section title="Customer orders" figure={`${use.orders.length}`}>
      <Rows
        rows={use.orders.map((o): [string, string] => [
          `${o.name}, ${o.pieces} piece${o.pieces === 1 ? "" : "s"}`,
          o.cost === null ? squareMetres(o.area_mm2, unit) : money(o.cost, use.currency),
        ])}
      />
    </Section>
  );
}
