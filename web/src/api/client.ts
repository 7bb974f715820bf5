/** Asking the server, and what it says when it will not. */
import { heldTag, wholeJob } from "./held";
import type { Job } from "./model";

const plain = (v: unknown): v is Record<string, unknown> =>
  typeof v === "object" && v !== null && !Array.isArray(v);
export class ApiError extends Error {
  constructor(
    public status: number,
    message: string,
  ) {
    super(message);
  }
}

/** The name that whoever works at this screen gave, kept in this browser. */
export const author = () => {
  try {
    return localStorage.getItem("venzo-author") ?? "";
  } catch {
    return "";
  }
};
export const setAuthor = (name: string) => {
  try {
    localStorage.setItem(
      "venzo-author",
      [...name.replace(/\p{Surrogate}/gu, "").trim()].slice(0, 80).join(""),
    );
  } catch {
    /* a browser that keeps nothing: unsigned */
  }
};

export async function call<T>(path: string, init?: RequestInit): Promise<T> {
  let answer: Response;
  try {
    answer = await fetch(`/api${path}`, { ...init, headers: { ...init?.headers, ...said(path) } });
  } catch {
    throw new ApiError(0, "Venzo does not answer. Is it still running? Your last acknowledged edit is safe.");
  }
  const body = await answer.json().catch(() => ({ detail: `the server answered ${answer.status}` }));
  if (!answer.ok)
    throw new ApiError(
      answer.status,
      typeof body.detail === "string" ? body.detail : JSON.stringify(body.detail),
    );
  return (await wholeAnswer(body)) as T;
}

/** Who works at this screen, and which answer about the job is held. */
function said(path: string): Record<string, string> {
  const name = author(),
    tag = heldTag(/^\/jobs\/([^/?]+)/.exec(path)?.[1] ?? "");
  return { ...(name && { "x-author": encodeURIComponent(name) }), ...(tag && { "x-holds": tag }) };
}

/** An answer that is a job, or brings one, with all of it. */
async function wholeAnswer(body: unknown): Promise<unknown> {
  if (isJob(body)) return wholeJob(body) ?? (await call<Job>(`/jobs/${body.id}`));
  if (plain(body) && isJob(body.job)) return { ...body, job: await wholeAnswer(body.job) };
  return body;
}
const isJob = (v: unknown): v is Job => plain(v) && typeof v.tag === "string" && Array.isArray(v.setups);

export const post = <T>(path: string, body?: unknown) =>
  call<T>(path, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: body === undefined ? undefined : JSON.stringify(body),
  });

export const patch = <T>(path: string, body: unknown) =>
  call<T>(path, {
    method: "PATCH",
    headers: { "content-type": "application/json" },
    body: JSON.stringify(body),
  });
