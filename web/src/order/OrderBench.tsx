import { call } from "../api/client";
import { type Edits } from "../api/edits";
import { clock, type Command, type Job, type OrderLine, type Setup, type SheetPlan } from "../api/model";
import { cutAt, times } from "../holding/grades";
import { HowFar } from "../shared/HowFar";
import { Snags } from "../shared/Snags";
import { metres, useUnit } from "../shared/lengths";
import { useOneByOne } from "../shared/useOneByOne";
import { OperatorStops, SlowFirst } from "./OperatorStops";

type Props = {
  job: Job;
  setup: Setup;
  edits: Edits;
  plan?: SheetPlan;
  selected: string | null;
  time: number | null;
};
type Set = (fields: Partial<Omit<Extract<Command, { kind: "set-order" }>, "kind" | "setup">>) => void;

/** A piece in words. */
export const callerOf = (job: Job) => {
  const names = new Map(job.parts.map((p) => [p.id, p.name]));
  return (id: string) => `${names.get(id.split("#")[0]) ?? id}, piece ${id.split("#")[1]}`;
};

/** In which order the cuts of a sheet are made: rules compared, a trial first, moves by hand. */
export function OrderDocket(props: Props) {
  const { setup, edits } = props;
  const set: Set = (fields) => edits.run({ kind: "set-order", setup: setup.id, ...fields });
  return (
    <>
      <h2 className="text-figure font-semibold">In which order</h2>
      <Compared {...props} set={set} />
      <TrialFirst {...props} set={set} />
      <ByHand {...props} set={set} />
      <OperatorStops {...props} />
      <SlowFirst setup={setup} set={set} />
      <Snags
        snags={setup.snags.filter(
          (s) =>
            s.rule.startsWith("order.") ||
            s.rule === "proof.stop" ||
            ["holding.loose-cut", "holding.loose-drop", "holding.after-free"].includes(s.rule),
        )}
        edits={edits}
      />
    </>
  );
}

type Setting = Props & { set: Set };

const ORDERS: OrderLine["order_by"][] = [
  "insides first",
  "outsides first",
  "piece by piece",
  "small parts first",
  "heat spread",
];

function Compared({ job, setup, edits, set }: Setting) {
  const { unit } = useUnit();
  const orders = useOneByOne<OrderLine>(
    ["orders", job.id, setup.id, job.revision],
    ORDERS,
    (by, signal) =>
      call(`/jobs/${job.id}/orders?setup=${setup.id}&only=${encodeURIComponent(by)}`, { signal }),
    setup.sheets.length > 0,
  );
  const now = orders.found.find((o) => o.now);
  return (
    <section className="mt-1 border border-line bg-paper px-2.5 py-1.5" aria-label="Orders compared">
      <HowFar of={orders} what="the orders" />
      {setup.sheets.length > 0 && (
        <table className="w-full text-small">
          <thead>
            <tr className="label text-left">
              <th className="font-normal">order</th>
              <th className="text-right font-normal">time</th>
              <th className="text-right font-normal">travel</th>
              <th className="text-right font-normal">loads</th>
              <th className="text-right font-normal">least</th>
            </tr>
          </thead>
          <tbody>
            {ORDERS.map((by) => {
              const o = orders.found.find((x) => x.order_by === by);
              return (
                <tr key={by} className="border-t border-line" data-order={o && by}>
                  <td className="py-1 pr-1">
                    <button
                      className={`text-left ${o?.now ? "font-semibold" : "underline decoration-dotted"}`}
                      disabled={!o || o.now || edits.busy}
                      title={o?.why}
                      onClick={() => set({ order_by: by })}
                    >
                      {by}
                    </button>
                    {o && o.stops > 0 && (
                      <span className="ml-1 text-stop">
                        {o.stops} stop{o.stops > 1 ? "s" : ""}
                      </span>
                    )}
                  </td>
                  <td className="num py-1 text-right">
                    {o ? clock(o.seconds) : orders.running ? "..." : "-"}
                  </td>
                  <td className="num py-1 text-right">{o && metres(o.travel, unit)}</td>
                  <td className="num py-1 text-right">{o?.changes}</td>
                  <td className="num py-1 text-right">{o && `${times(o.lowest)}×`}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      <p className="label mt-1 min-h-12">
        {now && `${now.why[0].toUpperCase()}${now.why.slice(1)}. All sheets of the setup.`}
      </p>
    </section>
  );
}

function TrialFirst({ job, setup, selected, set }: Setting) {
  const called = callerOf(job),
    piece = setup.pieces.find((p) => p.id === selected);
  return (
    <section className="mt-3 border border-line bg-paper px-2.5 py-1.5" aria-label="Trial">
      <h3>
        <b className="text-head font-semibold">Trial first</b>
      </h3>
      {setup.trial.length ? (
        <ul>
          {setup.trial.map((id) => (
            <li key={id} className="rule flex justify-between gap-2 py-0.5">
              {called(id)}
              <button
                className="text-small underline decoration-dotted"
                onClick={() => set({ trial: setup.trial.filter((t) => t !== id) })}
              >
                with the rest
              </button>
            </li>
          ))}
        </ul>
      ) : (
        <p className="label">
          Cut a piece or two in a program of their own, look at them, then run the rest. Choose a piece on the
          table.
        </p>
      )}
      {piece && !setup.trial.includes(piece.id) && (
        <button className="key mt-1" onClick={() => set({ trial: [...setup.trial, piece.id] })}>
          {called(piece.id)} first
        </button>
      )}
      <label className="mt-1.5 flex items-baseline gap-2">
        <input
          type="checkbox"
          checked={setup.insides_apart}
          onChange={(e) => set({ insides_apart: e.target.checked })}
        />{" "}
        insides and outlines in programs of their own
      </label>
    </section>
  );
}

function ByHand({ job, setup, edits, plan, time, set }: Setting) {
  const called = callerOf(job),
    mine = setup.moved_cuts.filter((m) => m.sheet === plan?.sheet && m.sheet_copy === plan?.copy_no);
  const words = (name: string) => {
    const [id, contour] = [name.slice(0, name.indexOf("/")), name.slice(name.indexOf("/") + 1)];
    return `${contour.split("/")[0]} of ${called(id)}`;
  };
  return (
    <section className="mt-3 border border-line bg-paper px-2.5 py-1.5" aria-label="By hand">
      <h3>
        <b className="text-head font-semibold">By hand</b>
      </h3>
      <MoveHere {...{ job, setup, edits, plan, time }} />
      {mine.length > 0 && (
        <ul className="mt-1.5">
          {mine.map((m, i) => {
            const no = plan?.refused.find((r) => r.cut === m.cut && r.before === m.before);
            return (
              <li key={i} className="rule py-0.5 text-small">
                {words(m.cut)} {m.before ? <>before {words(m.before)}</> : "at the end"}
                {no ? <span className="text-look"> (left out: {no.why})</span> : ""}{" "}
                <button
                  className="text-small underline decoration-dotted"
                  onClick={() => set({ moved_cuts: setup.moved_cuts.filter((o) => o !== m) })}
                >
                  take back
                </button>
              </li>
            );
          })}
        </ul>
      )}
    </section>
  );
}

/** The cut at the moment on the tape, and where it may be moved to. */
function MoveHere({ job, setup, edits, plan, time }: Omit<Props, "selected">) {
  const called = callerOf(job);
  const at = cutAt(plan, time),
    here =
      time === null || !plan
        ? null
        : (plan.cuts.find((c) => c.begins + c.seconds > time) ?? plan.cuts[at] ?? null),
    index = here && plan ? plan.cuts.indexOf(here) : -1;
  const move = (before: number) =>
    plan &&
    here &&
    edits.run({
      kind: "move-cut",
      setup: setup.id,
      sheet: plan.sheet,
      sheet_copy: plan.copy_no,
      cut: here.name,
      before: plan.cuts[before]?.name ?? "",
    });
  return (
    <>
      {here && plan ? (
        <>
          <p className="text-small">
            On the tape: <b className="font-semibold">{here.contour}</b> of {called(here.piece)},{" "}
            <span className="num">{index + 1}</span> of <span className="num">{plan.cuts.length}</span>.
          </p>
          <div className="mt-1 flex flex-wrap gap-1.5">
            <button
              className="key !px-2 !py-0"
              disabled={index <= 0 || edits.busy}
              onClick={() => move(index - 1)}
            >
              one earlier
            </button>
            <button
              className="key !px-2 !py-0"
              disabled={index >= plan.cuts.length - 1 || edits.busy}
              onClick={() => move(index + 2)}
            >
              one later
            </button>
            <button className="key !px-2 !py-0" disabled={index <= 0 || edits.busy} onClick={() => move(0)}>
              first
            </button>
            <button
              className="key !px-2 !py-0"
              disabled={index >= plan.cuts.length - 1 || edits.busy}
              onClick={() => move(plan.cuts.length)}
            >
              last
            </button>
          </div>
        </>
      ) : (
        <p className="label">
          Drag a cell of the tape to another place, or scrub to a cut and move it from here. What a rule or
          the hold forbids says why.
        </p>
      )}
    </>
  );
}
