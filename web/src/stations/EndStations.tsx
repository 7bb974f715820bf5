import type { Edits } from "../api/edits";
import { clock, type Job, type ProofSheet, type Setup } from "../api/model";
import { Snags } from "../shared/Snags";
import { inUnit } from "../shared/Tokens";
import { bare, length, metres, squareMetres, useUnit } from "../shared/lengths";
import { RunsOfSetup } from "./log/Runs";

export function ProveDocket({ setup, proof, edits }: { setup: Setup; proof?: ProofSheet[]; edits: Edits }) {
  const { unit } = useUnit();
  if (!setup.sheets.length) return <p>There is no program to prove yet: nest the pieces first.</p>;
  if (!proof) return <p role="status">Writing the programs and reading them back ...</p>;
  const r = (v: number) => bare(v, unit, unit === "mm" ? 2 : 3);
  return (
    <>
      <h2 className="text-[20px] font-semibold">Read back and held against the plan</h2>
      <p className="label">
        Every program is written, read as a controller reads it, and held move for move against the plan, the
        drawn parts and what stands on the table.
      </p>
      {setup.release.leaves_out.length > 0 && (
        <section className="mt-3 border border-ink bg-[#fffdf8] px-2.5 py-1.5" aria-label="What is not cut">
          <h3 className="font-semibold">What is not cut</h3>
          <ul className="list-disc pl-5 text-[14px]">
            {setup.release.leaves_out.map((t) => (
              <li key={t}>{inUnit(t, unit)}</li>
            ))}
          </ul>
        </section>
      )}
      {proof.map((p, i) => (
        <section key={`${p.sheet}/${p.copy_no}`} className="mt-3">
          <h3 className="font-semibold">Sheet {i + 1}</h3>
          <dl className="grid grid-cols-[1fr_auto] gap-x-3">
            <dt className="label rule py-0.5">moves</dt>
            <dd className="num rule text-right">{p.moves}</dd>
            <dt className="label rule py-0.5">time of motion, with acceleration</dt>
            <dd className="num rule text-right">{clock(p.seconds)}</dd>
            <dt className="label rule py-0.5">cutter changes</dt>
            <dd className="num rule text-right">
              {clock((setup.sheets[i]?.changes.length ?? 0) * setup.machine.change_seconds)}
            </dd>
            <dt className="label rule py-0.5">cutting / fast travel</dt>
            <dd className="num rule text-right">
              {metres(p.cut_length, unit)} / {metres(p.rapid_length, unit)}
            </dd>
            {p.lowest && p.highest && (
              <>
                <dt className="label rule py-0.5">lowest, from the top</dt>
                <dd className="num rule text-right">{length(p.lowest[2], unit)}</dd>
                <dt className="label rule py-0.5">cutter's middle, X</dt>
                <dd className="num rule text-right">
                  {r(p.lowest[0])} to {r(p.highest[0])}
                </dd>
                <dt className="label rule py-0.5">cutter's middle, Y</dt>
                <dd className="num rule text-right">
                  {r(p.lowest[1])} to {r(p.highest[1])}
                </dd>
              </>
            )}
          </dl>
          <Snags snags={p.snags} edits={edits} />
        </section>
      ))}
      <p className="label mt-3">
        Move along the tape to watch the order. Then let a second person look before machine time is booked.
      </p>
    </>
  );
}

export function YieldBoard({ job, setup }: { job: Job; setup: Setup }) {
  const { unit } = useUnit();
  const parts = new Map(job.parts.map((p) => [p.id, p]));
  if (!setup.yields.sheets.length)
    return (
      <p className="grid h-full place-items-center text-quiet">Nothing is nested yet, so nothing is used.</p>
    );
  return (
    <div className="grid h-full auto-rows-min gap-4 overflow-auto p-4">
      {setup.yields.sheets.map((s, i) => {
        const stock = setup.stock.find((k) => k.id === s.sheet)!;
        return (
          <figure key={`${s.sheet}/${s.copy_no}`} className="border border-line bg-paper p-3">
            <figcaption className="mb-1 flex items-baseline gap-4">
              <b className="font-semibold">Sheet {i + 1}</b>
              <span className="label">{stock.name}</span>
              <span className="num ml-auto text-[22px]">{(s.utilisation * 100).toFixed(1)} %</span>
            </figcaption>
            <svg
              viewBox={`-2 ${-stock.height - 2} ${stock.width + 4} ${stock.height + 4}`}
              className="max-h-[300px] w-full"
              role="img"
              aria-label={`Sheet ${i + 1}: ${(s.utilisation * 100).toFixed(1)} % used`}
            >
              <defs>
                <pattern
                  id={`left-${i}`}
                  width="26"
                  height="26"
                  patternUnits="userSpaceOnUse"
                  patternTransform="rotate(45)"
                >
                  <rect width="26" height="26" fill="#f4eedf" />
                  <path d="M0 0V26" stroke="#1c4e49" strokeWidth="5" opacity=".35" />
                </pattern>
              </defs>
              <g transform="scale(1 -1)">
                {stock.outline.length > 2 ? (
                  <polygon
                    points={stock.outline.map((q) => q.join(",")).join(" ")}
                    fill="#ddd0b4"
                    stroke="#21262a"
                    strokeWidth={4}
                  />
                ) : (
                  <rect
                    width={stock.width}
                    height={stock.height}
                    fill="#ddd0b4"
                    stroke="#21262a"
                    strokeWidth={4}
                  />
                )}
                {setup.pieces
                  .filter((p) => p.sheet === s.sheet && p.sheet_copy === s.copy_no)
                  .map((p) => (
                    <path
                      key={p.id}
                      d={parts
                        .get(p.part)
                        ?.contours.map((c) => c.d)
                        .join("")}
                      fillRule="evenodd"
                      transform={`translate(${p.x} ${p.y}) rotate(${p.rotation})${p.mirrored ? " scale(-1 1)" : ""}`}
                      fill="#fbf5e6"
                      stroke="#21262a"
                      strokeWidth={2.5}
                    />
                  ))}
                {s.remnant && (
                  <rect
                    x={stock.width - s.remnant[0]}
                    y={0}
                    width={s.remnant[0]}
                    height={s.remnant[1]}
                    fill={`url(#left-${i})`}
                    stroke="#1c4e49"
                    strokeWidth={4}
                    strokeDasharray="18 12"
                  />
                )}
              </g>
              {s.remnant && s.remnant[0] > 150 && (
                <text
                  x={stock.width - s.remnant[0] / 2}
                  y={-stock.height / 2}
                  textAnchor="middle"
                  fontSize={Math.min(52, s.remnant[0] / 6)}
                  fill="#1c4e49"
                  fontWeight={600}
                >
                  keeps {bare(s.remnant[0], unit, unit === "mm" ? 0 : 1)} x{" "}
                  {bare(s.remnant[1], unit, unit === "mm" ? 0 : 1)}
                </text>
              )}
            </svg>
          </figure>
        );
      })}
    </div>
  );
}

export function YieldDocket({ job, setup }: { job: Job; setup: Setup }) {
  const { unit } = useUnit();
  const y = setup.yields,
    mass = y.sheets.reduce((n, s) => n + s.net_mass, 0),
    cost = y.material_cost + y.machine_cost;
  const known = (what: "material" | "machine", v: number) =>
    y.unpriced.includes(what) ? "no price yet" : v.toFixed(2);
  const rows: [string, string][] = [
    ["pieces", String(y.pieces)],
    ["sheets, at least by area", `${y.sheets.length}, ${y.bound}`],
    ["bought", squareMetres(y.sheet_area, unit)],
    ["in the parts", squareMetres(y.net_area, unit)],
    ["used", `${(y.utilisation * 100).toFixed(1)} %`],
    ["length of cut", metres(y.cut_length, unit)],
    ["machine time", clock(y.seconds)],
    ["material", known("material", y.material_cost)],
    ["machine", known("machine", y.machine_cost)],
    ["together", y.unpriced.length ? "-" : cost.toFixed(2)],
    ["each piece, on average", y.pieces && !y.unpriced.length ? (cost / y.pieces).toFixed(2) : "-"],
    ["mass of the parts", `${mass.toFixed(1)} kg`],
  ];
  const total = job.parts.filter((p) => p.setup === setup.id).reduce((n, p) => n + p.area * p.quantity, 0);
  return (
    <>
      <h2 className="text-[20px] font-semibold">What the job uses</h2>
      <dl className="mt-2 grid grid-cols-[1fr_auto] gap-x-3">
        {rows.map(([k, v]) => (
          <div key={k} className="contents">
            <dt className="label rule py-1">{k}</dt>
            <dd className="num rule py-1 text-right">{v}</dd>
          </div>
        ))}
      </dl>
      <h3 className="mt-4 font-semibold">Share of each part in the material</h3>
      <table className="mt-1 w-full">
        <tbody>
          {job.parts
            .filter((p) => p.setup === setup.id && p.quantity)
            .map((p) => (
              <tr key={p.id}>
                <td className="rule py-0.5">
                  {p.name} <span className="label">x {p.quantity}</span>
                </td>
                <td className="num rule text-right">
                  {total && y.pieces && !y.unpriced.includes("material")
                    ? ((y.material_cost * p.area) / total).toFixed(2)
                    : "-"}
                </td>
                <td className="label rule w-10 text-right">each</td>
              </tr>
            ))}
        </tbody>
      </table>
      <p className="label mt-2">
        The sheets' cost is shared by net area, so that waste and remnant are paid by the parts. Machine time
        includes acceleration and cutter changes, not setting up.
      </p>
    </>
  );
}

export function ReleaseDocket({
  job,
  setup,
  proof,
  edits,
}: {
  job: Job;
  setup: Setup;
  proof?: ProofSheet[];
  edits: Edits;
}) {
  const { unit } = useUnit();
  const stops = [...setup.snags, ...(proof ?? []).flatMap((p) => p.snags)].filter(
      (s) => s.severity === "stop",
    ),
    r = setup.release;
  const dialect = (fields: Partial<Setup["machine"]["dialect"]>) => {
    const d = { ...setup.machine.dialect, ...fields };
    const name = `RS-274, ${d.inch ? "inch" : "metric"}, ${d.tool_change ? "tool change by M6" : "one cutter a file"}`;
    edits.run({ kind: "change-setup", setup: setup.id, machine: { dialect: { ...fields, name } } });
  };
  const ready = r.files.length > 0 && stops.length === 0 && !!proof;
  return (
    <>
      <h2 className="text-[20px] font-semibold">
        {ready
          ? "Ready to release"
          : r.files.length
            ? stops.length
              ? "Programs withheld"
              : "Reading the programs back ..."
            : "Nothing to release yet"}
      </h2>
      <p className="label">
        RS-274, {setup.machine.dialect.inch ? "inch" : "metric"},{" "}
        {setup.machine.dialect.tool_change ? "tool change by M6" : "one cutter a file"}; revision{" "}
        {job.revision}
      </p>
      <div className="mt-1 flex flex-wrap gap-1.5">
        <button
          className="key"
          aria-pressed={setup.machine.dialect.inch}
          onClick={() => dialect({ inch: !setup.machine.dialect.inch })}
        >
          programs in {setup.machine.dialect.inch ? "inches" : "millimetres"}
        </button>
        <button
          className="key"
          aria-pressed={setup.machine.dialect.tool_change}
          onClick={() => dialect({ tool_change: !setup.machine.dialect.tool_change })}
        >
          {setup.machine.dialect.tool_change
            ? "one file a sheet, cutters changed by M6"
            : "a file for each cutter"}
        </button>
      </div>
      {r.files.length > 0 && (
        <a
          className={`${ready ? "key-strong" : "key"} mt-2 inline-block`}
          href={`/api/jobs/${job.id}/release.zip`}
          download
        >
          {ready ? "Download programs and papers" : "Download the papers only"}
        </a>
      )}
      <ul className="mt-3">
        {r.files.map((f) => (
          <li key={f.name} className="rule flex items-baseline gap-2 py-1">
            <span className="num min-w-0 break-all text-[13px]">
              {ready ? (
                <a className="underline" href={`/api/jobs/${job.id}/files/${f.name}`}>
                  {f.name}
                </a>
              ) : (
                f.name
              )}
            </span>
            <span className="num ml-auto">{clock(f.seconds)}</span>
          </li>
        ))}
      </ul>
      <h3 className="mt-3 font-semibold">Contains</h3>
      <p>{r.contains.map((c) => `${c.pieces} x ${c.part}`).join(", ") || "nothing"}</p>
      <p className="label">
        {r.cuts} cuts on {r.sheets} sheet{r.sheets === 1 ? "" : "s"}
      </p>
      <h3 className="mt-3 font-semibold">Leaves out</h3>
      {r.leaves_out.length ? (
        <ul className="list-disc pl-5">
          {r.leaves_out.map((t) => (
            <li key={t}>{inUnit(t, unit)}</li>
          ))}
        </ul>
      ) : (
        <p>nothing that the plan holds</p>
      )}
      {setup.sheets.length > 0 && <RunsOfSetup job={job} setup={setup} />}
      {stops.length > 0 && (
        <>
          <h3 className="mt-3 font-semibold text-stop">Clear these first</h3>
          <Snags snags={stops} edits={edits} />
        </>
      )}
      <p className="label mt-4 border-t border-line pt-2">
        Glasses, ear defenders, extraction. Check hold, zero and clearance before the spindle starts; first
        piece in air or at reduced feed. Local codes, the makers' instructions and trained people come first.
        {setup.material.caution ? ` ${setup.material.caution}` : ""}
      </p>
    </>
  );
}
