import { type Form, formInUse, formKey, formOfKey, PLAIN_FORM, sameForm, writeBy } from '@/core/values';
import { FORM_COOKIE } from './form-cookie';

const remembered = (): Form | null => {
  const entry = document.cookie.split('; ').find((one) => one.startsWith(`${FORM_COOKIE}=`));
  return entry ? formOfKey(decodeURIComponent(entry.slice(FORM_COOKIE.length + 1))) : null;
};

/** The form of this page, from when it was opened until it is left: what is shown and what is typed never change theirs halfway. */
export function writeByForm(): void {
  if (typeof document === 'undefined') return;
  const form = remembered() ?? PLAIN_FORM;
  writeBy(() => form);
}

/** Remembers the form of a workspace. The page is to be opened anew where that isn't what it writes by. */
export function rememberForm(workspace: string, form: Form): 'asItIs' | 'openAnew' {
  if (sameForm(form, formInUse())) return 'asItIs';
  document.cookie = `${FORM_COOKIE}=${encodeURIComponent(formKey(form))}; path=/w/${workspace}; max-age=31536000; samesite=lax`;
  // A browser that keeps no cookies goes on plainly.
  const kept = remembered();
  return kept && sameForm(kept, form) ? 'openAnew' : 'asItIs';
}

/** What tells the server how its texts are to write numbers and dates. */
export const formHeader = (): Record<string, string> =>
  sameForm(formInUse(), PLAIN_FORM) ? {} : { 'Oikon-Form': formKey(formInUse()) };
