import type { ReactNode } from "react";

import { Pick } from "../shared/Pick";
import { type Dialect, inUnitOf } from "./dialect";

type Props = { d: Dialect; set: (f: Partial<Dialect>) => void };

/** How a program is written: its lines, numbers and first words. */
export function HowLinesAreWritten({ d, set }: Props) {
  const plot = d.language === "hpgl";
  return (
    <Group title="How lines are written">
      <Field what="reads">
        <Pick
          label="language"
          value={d.language}
          options={[
            ["rs-274", "RS-274 programs"],
            ["hpgl", "HPGL, a plot for a pen in the collet"],
          ]}
          onPick={(language) => set({ language })}
        />
      </Field>
      <Field what="file ending">
        <Text label="file ending" value={d.ending} onChange={(ending) => set({ ending })} narrow />
      </Field>
      {!plot && (
        <>
          <Field what="lengths in">
            <Pick
              label="unit of lengths"
              value={d.inch ? "in" : "mm"}
              options={[
                ["mm", "millimetres"],
                ["in", "inches"],
              ]}
              onPick={(u) => set(inUnitOf(d, u === "in"))}
            />
            , with{" "}
            <Pick
              label="decimals"
              value={String(d.decimals ?? "")}
              options={[
                ["", d.inch ? "5 decimals" : "3 decimals"],
                ["3", "3 decimals, always"],
                ["4", "4 decimals, always"],
                ["5", "5 decimals, always"],
                ["6", "6 decimals, always"],
              ]}
              onPick={(v) => set({ decimals: v ? Number(v) : null })}
            />
          </Field>
          <Field what="ten is written">
            <Pick
              label="whole numbers"
              value={d.whole}
              options={[
                ["10", "10"],
                ["10.", "10."],
                ["10.000", "10.000"],
              ]}
              onPick={(whole) => set({ whole })}
            />
          </Field>
          <Field what="curves are">
            <Pick
              label="arcs"
              value={d.arcs ? "arcs" : "lines"}
              options={[
                ["arcs", "arcs, G2 and G3"],
                ["lines", "lines only"],
              ]}
              onPick={(v) => set({ arcs: v === "arcs" })}
            />
          </Field>
          <Ticks
            ticks={[
              ["words are parted by spaces", d.spaces, (spaces) => set({ spaces })],
              ["a word that still holds is left away", d.modal, (modal) => set({ modal })],
              ["a percent sign before and after", d.percent, (percent) => set({ percent })],
            ]}
          />
          <Field what="block numbers">
            <Pick
              label="block numbers"
              value={String(d.numbers)}
              options={[
                ["0", "none"],
                ["1", "N1, N2, N3 ..."],
                ["5", "N5, N10, N15 ..."],
                ["10", "N10, N20, N30 ..."],
              ]}
              onPick={(v) => set({ numbers: Number(v) })}
            />
          </Field>
          <Field what="words for people">
            <Pick
              label="comments"
              value={d.comments}
              options={[
                ["brackets", "(in brackets)"],
                ["semicolon", "; after a semicolon"],
                ["none", "none"],
              ]}
              onPick={(comments) => set({ comments })}
            />
          </Field>
          <Field what="first words">
            <Text label="first words" value={d.modes} onChange={(modes) => set({ modes })} />
          </Field>
          <Field what="work offset">
            <Pick
              label="work offset"
              value={d.offset}
              options={[
                ["", "none is named"],
                ...(["G54", "G55", "G56", "G57", "G58", "G59"] as const).map(
                  (g) => [g, g] as [typeof g, string],
                ),
              ]}
              onPick={(offset) => set({ offset })}
            />
          </Field>
          <Field what="letters it takes">
            <Text
              label="letters it takes"
              value={d.letters}
              placeholder="all that are needed"
              onChange={(letters) => set({ letters })}
            />
          </Field>
        </>
      )}
      <Field what="longest line">
        <Amount label="longest line" value={d.longest} onChange={(longest) => set({ longest })} /> characters
        {", "}
        <label>
          <input type="checkbox" checked={d.crlf} onChange={(e) => set({ crlf: e.target.checked })} /> ended
          by CR LF
        </label>
      </Field>
    </Group>
  );
}

/** How a cutter is changed and a spindle gets to speed. */
function SpindleFields({ d, set }: Props) {
  return (
    <>
      <Field what="cutters">
        <Pick
          label="cutter change"
          value={d.tool_change ? d.change : "none"}
          options={[
            ["none", "one cutter a file, changed by hand"],
            ["T M6", "changed by T1 M6"],
            ["M6 T", "changed by M6 T1"],
          ]}
          onPick={(v) => set(v === "none" ? { tool_change: false } : { tool_change: true, change: v })}
        />
      </Field>
      <Ticks
        ticks={[
          ["it stops at M0 for the operator", d.stops, (stops) => set({ stops })],
          ["a cutter's length is taken up by G43", d.lengths, (lengths) => set({ lengths })],
        ]}
      />
      <Field what="spindle">
        <Amount
          label="seconds the spindle takes"
          value={d.spindle_up}
          onChange={(spindle_up) => set({ spindle_up })}
        />{" "}
        s to get up to speed
      </Field>
    </>
  );
}

/** What is switched on while it cuts, and where the cutter is left. */
function CoolingAndParking({ d, set }: Props) {
  return (
    <>
      <Field what="while it cuts">
        <Pick
          label="cooling"
          value={d.cooling}
          options={[
            ["", "nothing is switched on"],
            ["M7", "M7, air or mist"],
            ["M8", "M8, flood"],
          ]}
          onPick={(cooling) => set({ cooling })}
        />
      </Field>
      <Field what="left at the end">
        <Pick
          label="where the cutter is left"
          value={d.park}
          options={[
            ["over the work", "at the height of fast moves"],
            ["machine's top", "at the machine's top, G53 Z0"],
          ]}
          onPick={(park) => set({ park })}
        />
      </Field>
    </>
  );
}

const SPINDLE_WORDS = [
  ["at_start", "at the start"],
  ["before_change", "before a cutter change"],
  ["after_change", "after it: length, height"],
  ["before_cut", "before cutting: shoe down"],
  ["after_cut", "after cutting: shoe up"],
  ["at_end", "at the end"],
] as const;
const HEAD_WORDS = [
  ["at_start", "at the start"],
  ["raise_head", "to lift the head"],
  ["before_cut", "before a pierce"],
  ["sense", "to sense the height"],
  ["follow_on", "to follow the height"],
  ["follow_off", "to keep the height"],
  ["after_cut", "after a cut"],
  ["at_end", "at the end"],
] as const;

/** What is done around the cuts: cutters, spindle, stops, and the machine's own words. */
export function AroundTheCuts({ d, set }: Props) {
  if (d.language === "hpgl")
    return <p className="label">A plot has pen lines and no more: nothing is switched by it.</p>;
  return (
    <>
      <Group title={d.process === "head" ? "Dwells and end" : "Cutters, spindle and stops"}>
        {d.process !== "head" && <SpindleFields d={d} set={set} />}
        <Field what="P of a dwell in">
          <Pick
            label="dwells in"
            value={d.dwell_in}
            options={[
              ["s", "seconds"],
              ["ms", "milliseconds"],
            ]}
            onPick={(dwell_in) => set({ dwell_in })}
          />
        </Field>
        {d.process !== "head" && <CoolingAndParking d={d} set={set} />}
        <Field what="ends with">
          <Pick
            label="end"
            value={d.end}
            options={[
              ["M30", "M30"],
              ["M2", "M2"],
            ]}
            onPick={(end) => set({ end })}
          />
        </Field>
      </Group>
      <Group title="The machine's own words">
        <p className="label">One M word a line, from M8 on, with P, Q or R; they can move nothing.</p>
        {(d.process === "head" ? HEAD_WORDS : SPINDLE_WORDS).map(([key, what]) => (
          <Field key={key} what={what}>
            <Lines label={what} value={d[key] ?? []} onChange={(v) => set({ [key]: v })} />
          </Field>
        ))}
        {d.process !== "head" && (
          <Field what="a vacuum zone on, off">
            <Text
              label="vacuum zone on"
              value={d.zone_on}
              placeholder="M64 P{zone}"
              onChange={(zone_on) => set({ zone_on })}
              narrow
            />{" "}
            <Text
              label="vacuum zone off"
              value={d.zone_off}
              placeholder="M65 P{zone}"
              onChange={(zone_off) => set({ zone_off })}
              narrow
            />
          </Field>
        )}
      </Group>
    </>
  );
}

function Group({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="mb-2" aria-label={title}>
      <h3 className="font-semibold">{title}</h3>
      {children}
    </section>
  );
}

function Field({ what, children }: { what: string; children: ReactNode }) {
  return (
    <div className="rule grid grid-cols-[8.5rem_minmax(0,1fr)] items-baseline gap-2 py-0.5">
      <span className="label">{what}</span>
      <span>{children}</span>
    </div>
  );
}

function Ticks({ ticks }: { ticks: [string, boolean, (on: boolean) => void][] }) {
  return (
    <div className="rule py-0.5">
      {ticks.map(([words, on, onChange]) => (
        <label key={words} className="flex gap-2">
          <input type="checkbox" checked={on} onChange={(e) => onChange(e.target.checked)} />
          {words}
        </label>
      ))}
    </div>
  );
}

type TextProps = {
  label: string;
  value: string;
  onChange: (v: string) => void;
  placeholder?: string;
  narrow?: boolean;
};

function Text({ label, value, onChange, placeholder, narrow }: TextProps) {
  return (
    <input
      className={`field num min-w-0 ${narrow ? "w-28" : "w-full"}`}
      aria-label={label}
      value={value}
      maxLength={80}
      placeholder={placeholder}
      onChange={(e) => onChange(e.target.value)}
    />
  );
}

function Amount({ label, value, onChange }: { label: string; value: number; onChange: (v: number) => void }) {
  return (
    <input
      className="field num w-20"
      aria-label={label}
      type="number"
      min={0}
      value={value}
      onChange={(e) => e.target.value !== "" && onChange(Number(e.target.value))}
    />
  );
}

/** Lines of words, one a line; an empty one is none. */
function Lines({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string[];
  onChange: (v: string[]) => void;
}) {
  return (
    <textarea
      className="field num w-full"
      aria-label={label}
      rows={Math.max(1, value.length)}
      value={value.join("\n")}
      onChange={(e) => onChange(e.target.value === "" ? [] : e.target.value.split("\n"))}
    />
  );
}
