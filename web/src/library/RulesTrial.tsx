import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { call } from "../api/client";
import { clock, type RulesTrial as Trial } from "../api/model";
import { useJobs } from "../api/queries";
import { Pick } from "../shared/Pick";
import { inUnit } from "../shared/Tokens";
import { useUnit } from "../shared/lengths";
import { money } from "../shared/money";
import { type HouseRules } from "./ofRules";

/** What would change in a job if it took these rules; nothing is changed by looking. */
export function RulesTrial({ rules }: { rules: HouseRules }) {
  const jobs = useJobs("parts").data ?? [];
  const [job, setJob] = useState("");
  const tried = useQuery({
    queryKey: ["rules-trial", job, JSON.stringify(rules)],
    queryFn: () => call<Trial>(`/jobs/${job}/rules-trial`),
    enabled: !!job,
    retry: 0,
  });
  return (
    <section aria-label="In a job" className="border border-line bg-paper p-3">
      <h2 className="text-head font-semibold">What would change in a job?</h2>
      <div className="mt-1">
        <Pick
          label="job"
          value={job}
          placeholder="choose a job"
          options={jobs.map((j): [string, string] => [j.id, j.name])}
          onPick={setJob}
        />
      </div>
      {tried.isFetching && <p role="status">planning it with these rules ...</p>}
      {tried.error && (
        <p role="alert" className="text-stop">
          {tried.error.message}
        </p>
      )}
      {tried.data && !tried.isFetching && <Outcome t={tried.data} />}
    </section>
  );
}

function Outcome({ t }: { t: Trial }) {
  const { unit } = useUnit();
  const rows: [string, string, string][] = [
    ["time of motion", clock(t.now.seconds), clock(t.then.seconds)],
    ["all it costs", costs(t.now), costs(t.then)],
    ["cutters", `${t.now.cutters}`, `${t.then.cutters}`],
    ["pieces laid", `${t.now.pieces}`, `${t.then.pieces}`],
    ["stops", stops(t.now), stops(t.then)],
    ["to look at", looks(t.now), looks(t.then)],
  ];
  if (!t.differ.length) return <p className="mt-2">It keeps just these rules already.</p>;
  return (
    <>
      <p className="label mt-2">otherwise in it: {t.differ.map((d) => d.replace(/_/g, " ")).join(", ")}</p>
      <table className="mt-1 w-full text-small">
        <thead>
          <tr className="text-left text-quiet">
            <th className="font-normal"> </th>
            <th className="text-right font-normal">as it is</th>
            <th className="text-right font-normal">with these</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(([what, now, then]) => (
            <tr key={what} className={now === then ? "text-quiet" : "font-medium"}>
              <td className="rule py-0.5">{what}</td>
              <td className="num rule text-right">{now}</td>
              <td className="num rule text-right">{then}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <Said title="would be said" all={t.new.map((m) => inUnit(m, unit))} />
      <Said title="would be said no more" all={t.gone.map((m) => inUnit(m, unit))} />
    </>
  );
}

const sum = (of: Trial["now"], what: "stops" | "looks") =>
  of.route.filter((m) => m.station !== "release").reduce((n, m) => n + m[what], 0);
const stops = (of: Trial["now"]) => `${sum(of, "stops")}`;
const looks = (of: Trial["now"]) => `${sum(of, "looks")}`;

function Said({ title, all }: { title: string; all: string[] }) {
  if (!all.length) return null;
  return (
    <>
      <h3 className="label mt-2">{title}</h3>
      <ul className="text-small">
        {all.map((m) => (
          <li key={m} className="rule py-0.5">
            {m}
          </li>
        ))}
      </ul>
    </>
  );
}

const costs = (f: Trial["now"]) => (f.cost === null ? "not known" : money(f.cost, f.currency));
