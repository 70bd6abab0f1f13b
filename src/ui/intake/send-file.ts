import type { ImportPlan } from '@/core/intake';
import { apiPath, problemOf, serverAway } from '../api/client';

export interface Sending<T> {
  readonly answer: Promise<T>;
  /** Gives up; nothing of it is saved. */
  stop(): void;
}

/** Sends a plan and a file; tells how much of the file has gone out, from 0 to 1. The server reads as it comes in. */
export function sendFile<T>(
  path: string,
  { plan, file, person }: { plan: ImportPlan; file: File; person: string | null },
  onProgress: (share: number) => void,
): Sending<T> {
  const request = new XMLHttpRequest();
  const answer = new Promise<T>((resolve, reject) => {
    request.open('POST', apiPath(path));
    request.responseType = 'json';
    request.setRequestHeader('Content-Type', 'application/octet-stream');
    if (person) request.setRequestHeader('Oikon-Person', person);
    request.upload.onprogress = ({ loaded, total }) => onProgress(total > 0 ? loaded / total : 0);
    request.onload = () => {
      if (request.status >= 200 && request.status < 300) resolve(request.response as T);
      else reject(problemOf(request.status, request.response));
    };
    request.onerror = () => reject(serverAway());
    request.onabort = () => reject(new Stopped());
    request.send(new Blob([`${JSON.stringify(plan)}\n`, file]));
  });
  return { answer, stop: () => request.abort() };
}

/** It was given up by a person. */
export class Stopped extends Error {
  constructor() {
    super('Stopped. Nothing was saved.');
  }
}
