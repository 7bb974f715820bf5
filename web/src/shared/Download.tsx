import { useEffect, useRef, useState, type ReactNode } from "react";

/** A file that takes its time to be made: told while one waits, and stopped by a key. */
export function Download({
  href,
  className,
  children,
}: {
  href: string;
  className: string;
  children: ReactNode;
}) {
  const [began, setBegan] = useState<number | null>(null),
    [seconds, setSeconds] = useState(0),
    [wrong, setWrong] = useState("");
  const end = useRef<AbortController | null>(null);
  useEffect(() => () => end.current?.abort(), []);
  useEffect(() => {
    if (began === null) return;
    const tick = setInterval(() => setSeconds(Math.floor((Date.now() - began) / 1000)), 500);
    return () => clearInterval(tick);
  }, [began]);
  const fetchIt = async () => {
    end.current = new AbortController();
    setBegan(Date.now());
    setSeconds(0);
    setWrong("");
    try {
      const answer = await fetch(href, { signal: end.current.signal });
      if (!answer.ok) throw new Error(((await answer.json()) as { detail: string }).detail);
      const told = answer.headers.get("content-disposition") ?? "",
        plain = /filename="?([^";]+)/.exec(told)?.[1],
        encoded = /filename\*=UTF-8''([^;]+)/.exec(told)?.[1];
      save(await answer.blob(), plain ?? (encoded ? decodeURIComponent(encoded) : href.split("/").pop()!));
    } catch (e) {
      if (!end.current.signal.aborted) setWrong((e as Error).message);
    }
    setBegan(null);
  };
  return (
    <>
      <a
        className={className}
        href={href}
        download
        aria-busy={began !== null}
        onClick={(e) => {
          e.preventDefault();
          if (began === null) fetchIt();
        }}
      >
        {children}
      </a>
      {began !== null && (
        <p className="label mt-1 flex items-center gap-2" role="status">
          writing the programs and reading them back, <span className="num">{seconds}</span> s
          <button className="key !py-0" onClick={() => end.current?.abort()}>
            Stop
          </button>
        </p>
      )}
      {wrong && (
        <p role="alert" className="mt-1 text-stop">
          {wrong}
        </p>
      )}
    </>
  );
}

/** Hand a file to the browser as if it had been linked to. */
function save(file: Blob, name: string) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(file);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
}
