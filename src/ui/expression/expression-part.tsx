import {
  asTests,
  type Expression,
  printFeel,
  type RunReading,
  typeCondition,
  typeValue,
} from '@/core/expression';
import type { Model } from '@/core/model';
import { Button } from 'antd';
import { FeelInput } from '@/ui/expression/feel/feel-input';
import { Done, FormPart } from './part';
import style from './expression-part.module.css';

export interface ExpressionPartProps {
  readonly label: string;
  readonly model: Model;
  readonly type: string | null;
  readonly expression: Expression;
  readonly isWrong?: boolean;
  /** Whether it must be true or false. */
  readonly isTest?: boolean;
  /** Whether it may read who makes the change, and when; or who looks. */
  readonly usesRunContext?: RunReading;
  /** `null`: it is left out again, for something that is chosen. */
  readonly onChange: (expression: Expression | null) => void;
}

/** A part of the sentence that is written as FEEL text. */
export function ExpressionPart({
  label,
  model,
  type,
  expression,
  isWrong,
  isTest,
  usesRunContext = false,
  onChange,
}: ExpressionPartProps) {
  const text =
    expression.kind === 'feel' ? expression.text : ((type && printFeel(model, type, expression)) ?? '');
  const read =
    type && text.trim()
      ? (isTest ? typeCondition : typeValue)(model, type, expression, { usesRunContext })
      : null;
  const problem = read && !read.ok ? read.problem : null;
  const tests = isTest && type && read?.ok ? asTests(model, type, text) : null;
  return (
    <FormPart
      label={label}
      text={text.trim() || null}
      hint="an expression"
      isWrong={isWrong === true || problem !== null}
      startsOpen={text === ''}
    >
      {(close) => (
        <div className={style.expressionForm}>
          <FeelInput
            {...{ model, type, text, problem, label }}
            onChange={(next) => onChange({ kind: 'feel', text: next })}
            placeholder={isTest ? 'size > 2 and isOpen' : 'pieces * weight'}
            autoFocus
          />
          {problem ? <p className="finding">{problem.message}</p> : null}
          <Done close={close} />{' '}
          {tests ? (
            <Button size="small" onClick={() => onChange(tests)}>
              Show as tests
            </Button>
          ) : null}{' '}
          <Button size="small" type="text" onClick={() => onChange(null)}>
            {isTest ? 'Leave it out' : 'Choose a field instead'}
          </Button>
        </div>
      )}
    </FormPart>
  );
}
