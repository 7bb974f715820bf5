import { useState } from "react";

/** A download that says why where it is refused. */
export function Save({ address, words, strong }: { address: string; words: string; strong?: boolean }) {
  const [wrong, setWrong] = useState("");
  const get = async () => {
    const r = await fetch(`/api${address}`);
    if (!r.ok) {
      setWrong((await r.json().catch(() => ({ detail: `the server answered ${r.status}` }))).detail);
      return;
    }
    setWrong("");
    const name = decodeURIComponent(
        /filename\*=UTF-8''([^;]+)/.exec(r.headers.get("content-disposition") ?? "")?.[1] ?? "file",
      ),
      url = URL.createObjectURL(await r.blob()),
      a = document.createElement("a");
    a.href = url;
    a.download = name;
    a.click();
    URL.revokeObjectURL(url);
  };
  return (
    <>
      <button className={strong ? "key-strong" : "key"} onClick={get}>
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
