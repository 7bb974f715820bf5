/** Files that were dropped on the desk, till the job they go to is open. */
let waiting: { job: string; files: File[] } | null = null;

export const handOver = (job: string, files: File[]) => {
  waiting = { job, files };
};
/** The files handed over to a job, once. */
export function takeOver(job: string): File[] {
  if (waiting?.job !== job) return [];
  const { files } = waiting;
  waiting = null;
  return files;
}
