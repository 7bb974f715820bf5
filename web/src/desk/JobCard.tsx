import { type InfiniteData, useQuery, useQueryClient } from "@tanstack/react-query";
import { type DragEvent, useState } from "react";
import { Link, useNavigate } from "react-router";

import { call } from "../api/client";
import { clock, type Desk, type DeskJob, STATIONS } from "../api/model";
import { StateMark } from "../app/StateMark";
import { many } from "../shared/many";
import { when } from "../shared/when";
import { JobMenu } from "./JobMenu";
import { SmallPicture } from "./SmallPicture";
import { handOver } from "./handedOver";
import type { Place } from "./useDesk";

/** Where a job is opened; parts jobs go on where they stand. */
export const openAt = (j: DeskJob) =>
  j.kind === "surface"
    ? `/surfacing/${j.id}`
    : j.kind === "run"
      ? `/table/${j.id}`
      : `/job/${j.id}/${j.card?.go_on ?? "parts"}`;

/** A job on the desk: its sheet, whose it is, how far it has come. */
export function JobCard({ job, place }: { job: DeskJob; place: Place }) {
  const go = useNavigate();
  const [over, setOver] = useState(false);
  useCardMade(job, place);
  const takes = (e: DragEvent) => {
    if (job.kind !== "parts") return false;
    e.preventDefault();
    e.stopPropagation();
    return true;
  };
  return (
    <li
      data-job={job.id}
      className={`relative flex gap-3 border bg-paper p-2.5 ${over ? "border-accent outline-2 outline-accent" : "border-line hover:border-ink"}`}
      onDragOver={(e) => setOver(takes(e))}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        if (!e.dataTransfer.files.length || !takes(e)) return;
        setOver(false);
        handOver(job.id, [...e.dataTransfer.files]);
        go(`/job/${job.id}/parts`);
      }}
    >
      <SmallPicture of={job.card?.picture} kind={job.kind} />
      <div className="min-w-0 flex-1">
        <div className="flex items-start justify-between gap-2">
          <Link to={openAt(job)} className="min-w-0 text-head font-medium leading-tight hover:underline">
            {job.name}
          </Link>
          <JobMenu job={job} place={place} />
        </div>
        <p className="truncate text-small text-quiet">{namesOf(job)}</p>
        {job.kind === "parts" && job.card && (
          <>
            <Marks card={job.card} />
            <p className="text-small">
              <Figures job={job} card={job.card} />
            </p>
          </>
        )}
        <Foot job={job} place={place} />
      </div>
    </li>
  );
}

/** Cards are made one after the other, so that a desk full of them leaves the server room for what is asked. */
let turn: Promise<unknown> = Promise.resolve();
function inTurn<T>(work: () => Promise<T>): Promise<T> {
  const mine = turn.then(work, work);
  turn = mine.catch(() => {});
  return mine;
}

/** A job that nobody has read since it changed: its card is made when it is seen. */
function useCardMade(job: DeskJob, place: Place) {
  const client = useQueryClient();
  useQuery({
    queryKey: ["card", job.id, job.revision],
    queryFn: ({ signal }) =>
      inTurn(async () => {
        signal.throwIfAborted(); // not looked at any more
        const card = await call<DeskJob["card"]>(`/jobs/${job.id}/card`, { signal });
        client.setQueriesData<Pages>({ queryKey: ["desk"] }, (pages) => withCard(pages, job.id, card));
        return card;
      }),
    enabled: isStale(job) && place === "desk",
    staleTime: Infinity,
    retry: 0,
  });
}

type Pages = InfiniteData<Desk>;
const withCard = (pages: Pages | undefined, id: string, card: DeskJob["card"]) =>
  pages && {
    ...pages,
    pages: pages.pages.map((p) => ({
      ...p,
      jobs: p.jobs.map((j) => (j.id === id ? { ...j, card } : j)),
    })),
  };

const isStale = (job: DeskJob) => job.card?.revision !== job.revision;

const namesOf = ({ names, kind }: DeskJob) =>
  [names?.orders.join(", "), names?.machines.join(", "), names?.materials.join(", ")]
    .filter(Boolean)
    .join(" · ") || WHAT[kind];

function Figures({ job, card }: { job: DeskJob; card: NonNullable<DeskJob["card"]> }) {
  if (!card.pieces) return <>{many(job.names?.parts ?? 0, "piece")} wanted, not nested</>;
  return (
    <>
      {many(card.pieces, "piece")} on {many(card.sheets, "sheet")},{" "}
      <span className="num">{clock(card.seconds)}</span>
    </>
  );
}

function Foot({ job, place }: { job: DeskJob; place: Place }) {
  const goesOn = STATIONS.find((s) => s.id === job.card?.go_on)?.title;
  return (
    <p className="flex flex-wrap items-baseline justify-between gap-x-2">
      <span className="label">
        changed <span className="num">{when(job.changed)}</span>
        {isStale(job) && job.card ? ", drawn as it was before" : ""}
      </span>
      {place === "desk" && job.kind === "parts" && goesOn && (
        <Link to={openAt(job)} className="text-small text-accent underline underline-offset-2">
          go on at {goesOn}
        </Link>
      )}
    </p>
  );
}

const WHAT = {
  parts: "no order named",
  surface: "a board to surface",
  run: "sheets of several jobs on one table",
};

/** The route in small: a mark a station, with its stops. */
function Marks({ card }: { card: NonNullable<DeskJob["card"]> }) {
  return (
    <ul className="my-0.5 flex gap-2" aria-label="Stations">
      {card.route.map((m) => {
        const title = STATIONS.find((s) => s.id === m.station)!.title;
        const said =
          m.mark === "held up"
            ? many(m.stops, "stop")
            : m.mark === "in hand" && m.looks
              ? `${m.looks} to look at`
              : "";
        return (
          <li key={m.station} className="flex items-center gap-0.5" title={`${title}: ${said || m.mark}`}>
            <StateMark state={m.mark} />
            {m.mark === "held up" && <b className="num text-fine text-stop">{m.stops}</b>}
            {m.mark === "in hand" && m.looks > 0 && (
              <span className="num text-fine text-look">{m.looks}</span>
            )}
            <span className="sr-only">
              {title}: {said || m.mark}
            </span>
          </li>
        );
      })}
    </ul>
  );
}
