import { useEffect, useRef, useState } from "react";

/** Papers as one set, printed from the page: the set is fetched, and the browser's own printing asked for. */
export function PrintPapers({ address, words }: { address: string; words: string }) {
  const [busy, setBusy] = useState(false),
    [wrong, setWrong] = useState("");
  const frame = useRef<HTMLIFrameElement | null>(null),
    url = useRef("");
  const forget = () => {
    frame.current?.remove();
    if (url.current) URL.revokeObjectURL(url.current);
  };
  useEffect(() => forget, []);
  const print = async () => {
    setBusy(true);
    setWrong("");
    try {
      const answer = await fetch(`/api${address}`);
      if (!answer.ok) throw new Error(((await answer.json()) as { detail: string }).detail);
      forget();
      url.current = URL.createObjectURL(await answer.blob());
      const f = document.createElement("iframe");
      f.title = "papers to print";
      f.className = "fixed -left-full h-px w-px";
      f.onload = () => {
        try {
          f.contentWindow!.print();
        } catch {
          window.open(url.current, "_blank"); // a browser that shows no PDF in a page
        }
      };
      f.src = url.current;
      document.body.append(f);
      frame.current = f;
    } catch (e) {
      setWrong((e as Error).message);
    }
    setBusy(false);
  };
  return (
    <>
      <button className="key" onClick={print} aria-busy={busy} disabled={busy}>
        {words}
      </button>
      {wrong && (
        <p role="alert" className="basis-full text-small text-stop">
          {wrong}
        </p>
      )}
    </>
  );
}
