import { lazy, Suspense, useDeferredValue, useState } from "react";
import { Link } from "react-router";

import { useLibrary } from "../api/queries";
import { useTitle } from "../app/title";
import { Pick } from "../shared/Pick";
import { UnitSwitch } from "../shared/lengths";
import { many } from "../shared/many";
import { Runs } from "../together/Runs";
import { BringIn } from "./BringIn";
import { JobCard } from "./JobCard";
import { Waiting } from "./Waiting";
import { ANYTHING, type Place, useDesk, type Wanted } from "./useDesk";
import { type Done, DoneContext } from "./useDeskEdits";

const FirstStart = lazy(() => import("../app/FirstStart").then((m) => ({ default: m.FirstStart })));
const NewJob = lazy(() => import("./NewJob").then((m) => ({ default: m.NewJob })));

/** The desk of the shop: every job with its sheet and how far it has come, what waits, and the start of a new one. */
export function Shop() {
  const library = useLibrary().data;
  const [done, setDone] = useState<Done>(null),
    [dropped, setDropped] = useState<File[]>([]),
    [archive, setArchive] = useState<File>(),
    [over, setOver] = useState(false);
  useTitle("the desk");
  const fresh = library?.machine.length === 0;
  return (
    <DoneContext.Provider value={setDone}>
      <main
        className={`mx-auto flex h-full max-w-[1280px] flex-col px-6 pt-5 max-md:px-3 ${over ? "bg-accent-soft" : ""}`}
        onDragOver={(e) => {
          if (fresh) return;
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={(e) => {
          if (!e.currentTarget.contains(e.relatedTarget as Node)) setOver(false);
        }}
        onDrop={(e) => {
          if (fresh) return;
          e.preventDefault();
          setOver(false);
          const files = [...e.dataTransfer.files],
            zip = files.find((f) => /\.zip$/i.test(f.name));
          setArchive(zip);
          setDropped(files.filter((f) => f !== zip));
        }}
      >
        <header className="mb-4 flex flex-wrap items-baseline gap-x-6 gap-y-2">
          <h1 className="num text-huge font-medium tracking-tight">venzo</h1>
          <p className="text-quiet max-lg:hidden">from drawings to nested, held and proven programs</p>
          <span className="ml-auto flex flex-wrap gap-2">
            <UnitSwitch />
            <Link to="/reckon" className="key">
              Reckonings
            </Link>
            <Link to="/rack" className="key">
              Rack
            </Link>
            <Link to="/surfacing" className="key">
              Surfacing bench
            </Link>
            <Link to="/library" className="key">
              Shop library
            </Link>
          </span>
        </header>
        {done && (
          <p
            role={done.bad ? "alert" : "status"}
            className={`mb-2 flex items-center gap-3 border px-3 py-1.5 ${done.bad ? "border-stop bg-stop-soft text-stop" : "border-line bg-accent-soft"}`}
          >
            {done.says}
            {done.back && (
              <button className="key !py-0" onClick={done.back}>
                Undo
              </button>
            )}
            <button className="ml-auto text-small underline" onClick={() => setDone(null)}>
              close
            </button>
          </p>
        )}
        <div
          className={`grid min-h-0 flex-1 gap-6 overflow-y-auto pb-6 lg:overflow-hidden lg:pb-0 ${fresh ? "lg:grid-cols-[1fr_2.6fr]" : "lg:grid-cols-[minmax(0,1fr)_19rem]"}`}
        >
          <Jobs empty={fresh} />
          <div className="min-h-0 lg:overflow-y-auto lg:pb-6">
            {!fresh && <Waiting />}
            <Suspense fallback={<section aria-label="New job" />}>
              {fresh ? (
                <FirstStart known={library!.known} />
              ) : (
                library && <NewJob library={library} files={dropped} onForget={() => setDropped([])} />
              )}
            </Suspense>
            {!fresh && <BringIn archive={archive} onForget={() => setArchive(undefined)} />}
            {!fresh && <Runs />}
          </div>
        </div>
      </main>
    </DoneContext.Provider>
  );
}

const PLACES: [Place, string][] = [
  ["desk", "On the desk"],
  ["archive", "Archive"],
  ["bin", "Bin"],
];

/** The jobs that are looked for. */
function Jobs({ empty }: { empty: boolean }) {
  const [wanted, setWanted] = useState<Wanted>({ ...ANYTHING, place: "desk" });
  const desk = useDesk(useDeferredValue(wanted));
  const first = desk.data?.pages[0],
    looking = !!(wanted.words || wanted.standing || wanted.kind || wanted.days);
  const want = (w: Partial<Wanted>) => setWanted((now) => ({ ...now, ...w }));
  return (
    <section aria-label="Jobs" className="flex min-h-0 min-w-0 flex-col">
      <div className="mb-2 flex flex-wrap items-baseline gap-x-4 gap-y-1 border-b-2 border-ink">
        {PLACES.map(([place, title]) => (
          <button
            key={place}
            aria-pressed={wanted.place === place}
            className={`px-1 py-1 ${wanted.place === place ? "text-head font-semibold" : "text-quiet hover:text-ink"}`}
            onClick={() => want({ place })}
          >
            {title} <span className="num text-small">{first?.places[place]}</span>
          </button>
        ))}
      </div>
      {(looking || !!first?.places[wanted.place]) && <Filter wanted={wanted} want={want} />}
      {desk.isLoading && <p role="status">reading ...</p>}
      {desk.error && (
        <p role="alert" className="text-stop">
          {desk.error.message}
        </p>
      )}
      <p className="label mb-1" role="status">
        {looking && first ? `${many(first.total, "job")} found` : ""}
      </p>
      {first?.total === 0 && !looking && (
        <p className="text-quiet">{empty ? NOTHING.fresh : NOTHING[wanted.place]}</p>
      )}
      <Found desk={desk} place={wanted.place} />
    </section>
  );
}

function Found({ desk, place }: { desk: ReturnType<typeof useDesk>; place: Place }) {
  const pages = desk.data?.pages ?? [],
    jobs = pages.flatMap((p) => p.jobs);
  return (
    <ul
      className="grid min-h-0 grid-cols-[minmax(0,1fr)] content-start gap-2.5 lg:overflow-y-auto lg:pb-6 xl:grid-cols-2"
      aria-label="Jobs found"
      aria-busy={desk.isPlaceholderData}
    >
      {jobs.map((j) => (
        <JobCard key={j.id} job={j} place={place} />
      ))}
      {desk.hasNextPage && (
        <li className="xl:col-span-2">
          <button className="key" disabled={desk.isFetchingNextPage} onClick={() => desk.fetchNextPage()}>
            {desk.isFetchingNextPage
              ? "reading ..."
              : `Show more, ${many(pages[0].total - jobs.length, "job")} left`}
          </button>
        </li>
      )}
    </ul>
  );
}

const NOTHING = {
  fresh:
    "No jobs yet. First Venzo asks for your machine and what you cut, at the right. Nothing is in the shop library yet but what you put there.",
  desk: "No jobs yet. Drop drawings anywhere here, or start one at the right: name it, choose machine and material, then drop its drawings.",
  archive: "Nothing in the archive. Jobs that are done can be put here from their card on the desk.",
  bin: "The bin is empty.",
};

function Filter({ wanted, want }: { wanted: Wanted; want: (w: Partial<Wanted>) => void }) {
  return (
    <div className="mb-1.5 flex flex-wrap items-center gap-2">
      <input
        type="search"
        className="field min-w-44 flex-1 !font-sans"
        placeholder="name, order, part, material, machine, cutter"
        aria-label="Find jobs"
        maxLength={300}
        value={wanted.words}
        onChange={(e) => want({ words: e.target.value })}
      />
      <Pick
        label="how it stands"
        value={wanted.standing}
        options={[
          ["", "however it stands"],
          ["stops", "held up by stops"],
          ["looks", "to look at"],
          ["clear", "clear"],
          ["begun", "not nested yet"],
        ]}
        onPick={(standing) => want({ standing })}
      />
      <Pick
        label="kind of job"
        value={wanted.kind}
        options={[
          ["", "every kind"],
          ["parts", "parts"],
          ["surface", "boards"],
          ["run", "tables"],
        ]}
        onPick={(kind) => want({ kind })}
      />
      <Pick
        label="changed"
        value={wanted.days}
        options={[
          ["", "at any time"],
          ["1", "since yesterday"],
          ["7", "in a week"],
          ["31", "in a month"],
          ["365", "in a year"],
        ]}
        onPick={(days) => want({ days })}
      />
    </div>
  );
}
