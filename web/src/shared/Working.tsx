import { useEffect, useState } from "react";

/** Long work that somebody waits for: what is done, for how long already, and the key that stops it. */
export function Working({
  words,
  stopped,
  onStop,
  onGoOn,
}: {
  words: string;
  stopped: boolean;
  onStop: () => void;
  onGoOn: () => void;
}) {
  return (
    <p role="status" className="label flex items-center justify-center gap-2">
      {stopped ? "stopped" : words} {!stopped && <Seconds />}
      <button className="key !py-0" onClick={stopped ? onGoOn : onStop}>
        {stopped ? "Go on" : "Stop"}
      </button>
    </p>
  );
}

/** Seconds since it is shown; none in the first. */
function Seconds() {
  const [seconds, setSeconds] = useState(0);
  useEffect(() => {
    const began = Date.now(),
      tick = setInterval(() => setSeconds(Math.floor((Date.now() - began) / 1000)), 250);
    return () => clearInterval(tick);
  }, []);
  return seconds ? <span className="num">{seconds} s</span> : null;
}
