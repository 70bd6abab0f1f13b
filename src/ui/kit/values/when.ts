import { writeDate } from '@/core/values';

const two = (number: number): string => String(number).padStart(2, '0');

/** A moment in the reader's own time: `14 Mar 2027, 09:30`. */
export function when(at: string): string {
  const time = new Date(at);
  const day = [String(time.getFullYear()).padStart(4, '0'), two(time.getMonth() + 1), two(time.getDate())];
  return `${writeDate(day.join('-'))}, ${two(time.getHours())}:${two(time.getMinutes())}`;
}
