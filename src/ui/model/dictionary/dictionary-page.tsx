'use client';

import type { Dictionary, DictionaryRule } from '@/core/verify';
import { Button } from 'antd';
import { useRef } from 'react';
import { apiPath } from '@/ui/api/client';
import { useDictionary, useWorkspaces } from '@/ui/api/queries';
import { download, saveFile } from '@/ui/kit/download';
import { Loading } from '@/ui/kit/loading';
import { ButtonLink, useWorkspaceKey } from '@/ui/kit/navigation';
import { ProblemNotice } from '@/ui/kit/problems/problem-notice';
import { KIND_OF_RULE } from '@/ui/theme/kinds-of-rule';
import { clsx } from 'clsx';
import style from './dictionary-page.module.css';

/** Types, fields and rules in words: to be printed, kept, or handed to others. */
export function DictionaryPage() {
  const { data, error } = useDictionary();
  const key = useWorkspaceKey();
  const name = useWorkspaces().data?.workspaces.find((one) => one.key === key)?.name ?? key;
  const page = useRef<HTMLElement>(null);
  const title = `Dictionary of ${name}`;
  return (
    <>
      <header className="place-head">
        <h1>Dictionary</h1>
        <span className="place-lead">What is kept of what, and which rules keep it right.</span>
        <div className="place-actions">
          <ButtonLink href="/model">Back to the model</ButtonLink>
          <Button disabled={!data} onClick={() => download(apiPath('/dictionary/export'))}>
            As XLSX
          </Button>
          <Button
            disabled={!data}
            onClick={() => page.current && saveFile(asHtml(title, page.current), 'dictionary.html')}
          >
            As HTML
          </Button>
          <Button type="primary" disabled={!data} onClick={() => print()}>
            Print
          </Button>
        </div>
      </header>
      <div className="place-body" tabIndex={0} role="region" aria-label="The dictionary">
        <ProblemNotice error={error} />
        {data ? (
          <article ref={page} className={clsx('sheet', 'printed', style.dictionary)}>
            <h2>{title}</h2>
            {data.types.map((type) => (
              <Type
                key={type.name}
                type={type}
                rules={data.rules.filter((rule) => rule.type === type.name)}
              />
            ))}
          </article>
        ) : error ? null : (
          <Loading what="the dictionary" />
        )}
      </div>
    </>
  );
}

interface TypeProps {
  readonly type: Dictionary['types'][number];
  readonly rules: Dictionary['rules'];
}

function Type({ type: { name, plural, fields, selections }, rules }: TypeProps) {
  return (
    <section aria-label={plural}>
      <h3>{name}</h3>
      <table>
        <thead>
          <tr>
            <th scope="col">Field</th>
            <th scope="col">Kind</th>
            <th scope="col">What else</th>
          </tr>
        </thead>
        <tbody>
          {fields.map((field) => (
            <tr key={field.name}>
              <th scope="row">{field.name}</th>
              <td>{field.kind}</td>
              <td>{moreOf(field)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {selections.map((selection) => (
        <p key={selection.name}>
          <strong>{selection.name}</strong>: {selection.says}
        </p>
      ))}
      {rules.length > 0 ? (
        <ul>
          {rules.map((rule) => (
            <li key={rule.name}>
              <strong>{rule.name}</strong>{' '}
              <span>
                ({KIND_OF_RULE[rule.kind].toLowerCase()}, {STATES[rule.state]})
              </span>
              <br />
              {rule.sentence}
              {rule.note ? <em> {rule.note}</em> : null}
            </li>
          ))}
        </ul>
      ) : null}
    </section>
  );
}

const STATES: Readonly<Record<DictionaryRule['state'], string>> = {
  draft: 'a draft',
  live: 'live',
  paused: 'paused',
  retired: 'retired',
};

const moreOf = ({
  isRequired,
  isUnique,
  options,
  writtenBy,
  help,
}: TypeProps['type']['fields'][number]): string =>
  [
    isRequired ? 'required' : '',
    isUnique ? 'unique' : '',
    options.length > 0 ? options.join(', ') : '',
    writtenBy.length > 0 ? `written by ${writtenBy.map((name) => `“${name}”`).join(' and ')}` : '',
    help,
  ]
    .filter(Boolean)
    .join(' · ');

/** What is shown, as a page that stands for itself. */
function asHtml(title: string, shown: HTMLElement): Blob {
  const page = document.implementation.createHTMLDocument(title);
  page.documentElement.lang = 'en';
  const look = page.createElement('style');
  look.textContent =
    'body{max-width:960px;margin:32px auto;font:15px/1.5 sans-serif}table{border-collapse:collapse;width:100%}th,td{padding:4px 10px 4px 0;border-bottom:1px solid #ddd;text-align:left;vertical-align:top}';
  const charset = page.createElement('meta');
  charset.setAttribute('charset', 'utf-8');
  page.head.append(charset, look);
  page.body.innerHTML = shown.innerHTML;
  return new Blob([`<!doctype html>${page.documentElement.outerHTML}`], { type: 'text/html' });
}
