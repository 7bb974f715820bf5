/** What went wrong with a change, over what it was made on, until it is closed. */
export function Wrong({ says, close }: { says: string; close: () => void }) {
  if (!says) return null;
  return (
    <div
      role="alert"
      className="absolute inset-x-6 bottom-4 z-10 flex gap-3 border-l-8 border-stop bg-stop-soft px-3 py-2 shadow-md"
    >
      <span>{says}</span>
      <button className="key ml-auto !py-0" onClick={close}>
        Close
      </button>
    </div>
  );
}
