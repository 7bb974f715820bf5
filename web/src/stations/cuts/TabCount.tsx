import { useCount } from "../../shared/useCount";

export function TabCount({ value, onCommit }: { value: number; onCommit: (n: number) => void }) {
  const [count, set] = useCount(value, onCommit);
  return (
    <span className="inline-flex items-center">
      <button
        className="key !px-2 !py-0"
        aria-label="one tab fewer"
        disabled={count === 0}
        onClick={() => set(count - 1)}
      >
        -
      </button>
      <span className="num w-7 text-center">{count}</span>
      <button
        className="key !px-2 !py-0"
        aria-label="one tab more"
        disabled={count >= 40}
        onClick={() => set(count + 1)}
      >
        +
      </button>
    </span>
  );
}
