import { formHeader } from '@/ui/api/form';
import type { ImportPlan } from '@/core/intake';
import type { Progress } from '@/core/api';
import { apiPath, LINES, LongAnswer, problemOf, serverAway } from '@/ui/api/client';
import { sendOnce } from '@/ui/api/send-once';

export interface Sending<T> {
  readonly answer: Promise<T>;
  /** Gives up; nothing of it is saved. */
  stop(): void;
}

/** Sends a plan and a file; tells how much of the file has gone out, from 0 to 1, and then how far the work has come. */
export function sendFile<T>(
  path: string,
  { plan, file, person }: { plan: ImportPlan; file: File; person: string | null },
  onSent: (share: number) => void,
  onProgress: (progress: Progress) => void,
): Sending<T> {
  let request = new XMLHttpRequest();
  let isStopped = false;
  const send = (key: Readonly<Record<string, string>>) =>
    new Promise<T>((resolve, reject) => {
      if (isStopped) throw new Stopped();
      request = new XMLHttpRequest();
      const read = new LongAnswer<T>(onProgress);
      const isRead = () => request.getResponseHeader('Content-Type')?.startsWith(LINES) ?? false;
      request.open('POST', apiPath(path));
      request.setRequestHeader('Accept', LINES);
      request.setRequestHeader('Content-Type', 'application/octet-stream');
      if (person) request.setRequestHeader('Oikon-Person', person);
      for (const [name, value] of Object.entries(formHeader())) request.setRequestHeader(name, value);
      for (const [name, value] of Object.entries(key)) request.setRequestHeader(name, value);
      request.upload.onprogress = ({ loaded, total }) => onSent(total > 0 ? loaded / total : 0);
      request.onprogress = () => {
        if (isRead()) read.take(request.responseText);
      };
      request.onload = () => {
        try {
          if (!isRead()) throw problemOf(request.status, JSON.parse(request.responseText));
          read.take(request.responseText);
          resolve(read.end());
        } catch (error) {
          reject(error as Error);
        }
      };
      request.onerror = () => reject(serverAway());
      request.onabort = () => reject(new Stopped());
      request.send(new Blob([`${JSON.stringify(plan)}\n`, file]));
    });
  const stop = () => {
    isStopped = true;
    request.abort();
  };
  return { answer: sendOnce(send), stop };
}

/** It was given up by a person. */
export class Stopped extends Error {
  constructor() {
    super('Stopped. Nothing was saved.');
  }
}
