import { type Model, typeIn } from '@/core/model';
import { type AssignedValue, standsInText } from '@/core/rules';
import { Input, type InputRef, Select } from 'antd';
import { useRef } from 'react';
import { fieldChoices } from '@/ui/expression/field-choices';
import { Done, FormPart } from '@/ui/expression/part';
import type { AssignedProps } from './map-over';

/** What can stand in braces in a text: fields of the record and of those up its links, by name. */
export const valuesInText = (
  model: Model,
  type: string,
  via: string | null = null,
): { readonly value: string; readonly label: string }[] => {
  const of = (owner: string, path: string, called: string) =>
    fieldChoices({ model, type: owner }, (field) => standsInText(field.type.kind)).flatMap((choice) =>
      (choice.children ?? [choice]).map(({ key, name }) => ({
        value: path + key,
        label: called + (choice.children ? `${choice.name.replace(' …', '')} ${name}` : name),
      })),
    );
  const isNamed = via !== null && !model.field(type, via);
  return [...of(type, '', ''), ...(isNamed ? of(via, `${via}.`, `${typeIn(model, via).name}’s `) : [])];
};

/** Text with values in it: their names are chosen from a list, and stand in braces where the caret stood. */
export function TextPart({
  model,
  source,
  via = null,
  target,
  value,
  isWrong,
  onChange,
}: Pick<AssignedProps, 'model' | 'source' | 'via' | 'target' | 'isWrong' | 'onChange'> & {
  value: Extract<AssignedValue, { kind: 'text' }>;
}) {
  const input = useRef<InputRef>(null);
  return (
    <FormPart
      label={`Text of ${target.name}`}
      text={value.text ? `“${value.text}”` : null}
      hint="a text"
      isWrong={isWrong}
      startsOpen={value.text === ''}
    >
      {(close) => (
        <>
          <Input
            aria-label={`Text of ${target.name}`}
            value={value.text}
            maxLength={500}
            placeholder="With {title} until {closes}"
            autoFocus
            ref={input}
            onChange={(event) => onChange({ kind: 'text', text: event.target.value })}
          />
          <Select
            aria-label={`Put a value into the text of ${target.name}`}
            placeholder="Put in a value …"
            value={null}
            options={valuesInText(model, source, via)}
            showSearch={{ optionFilterProp: 'label' }}
            onChange={(path: string) => {
              const at = input.current?.input?.selectionStart ?? value.text.length;
              onChange({ kind: 'text', text: `${value.text.slice(0, at)}{${path}}${value.text.slice(at)}` });
              input.current?.focus();
            }}
            style={{ width: '100%' }}
          />
          <span className="quiet">
            What stands in braces stands for its value, written as people write it.
          </span>
          <Done close={close} />
        </>
      )}
    </FormPart>
  );
}
