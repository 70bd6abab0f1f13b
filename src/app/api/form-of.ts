import { type Form, formKey, formOfKey, PLAIN_FORM } from '@/core/values';
import { Refusal } from '@/server/refusal';

/** How texts of the answer write numbers and dates: the header `Oikon-Form`, plainly without it. */
export function formOf(request: Request): Form {
  const header = request.headers.get('oikon-form');
  if (header === null) return PLAIN_FORM;
  const form = formOfKey(header);
  if (form) return form;
  const message = `The header Oikon-Form should be a decimal mark, a mark between thousands (_ for a blank) and dayFirst or monthFirst, such as ${formKey(PLAIN_FORM)}; found ${header.slice(0, 80)}. Send one of these, or none.`;
  throw new Refusal(400, 'form.unknown', message);
}
