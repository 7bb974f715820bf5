import type { OneByOne } from "./useOneByOne";

/** How far long work has come, with the key that stops it; what was found stays. */
export function HowFar({ of, what }: { of: OneByOne<unknown>; what: string }) {
  if (of.error)
    return (
      <p role="alert" className="text-stop">
        {of.error}
      </p>
    );
  // the line keeps its room, so that nothing moves away under a pointer when the last one is found
  if (!of.running && !of.stopped)
    return <p className="label h-6">{of.found.length > 0 && `${what} compared`}</p>;
  return (
    <p className="label flex h-6 items-center gap-2" role="status">
      <progress className="h-2 w-24" value={of.found.length} max={of.of} aria-label={what} />
      {of.stopped ? "stopped" : `working ${what} through`}, {of.found.length} of {of.of}
      <button className="key !py-0" onClick={of.stopped ? of.goOn : of.stop}>
        {of.stopped ? "Go on" : "Stop"}
      </button>
    </p>
  );
}
