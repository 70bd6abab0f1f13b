'use client';

import type { Model } from '@/core/model';
import type { RuleView } from '@/core/api';
import { Input } from 'antd';
import { MayButton } from '@/ui/kit/may-button';
import { useState } from 'react';
import { RequestsOfRule } from '@/ui/requests/requests-of-rule';
import type { Written } from './drafts/begun';
import { CopyDialog } from './list/copy-dialog';
import { TagsDialog } from './list/tags-dialog';
import { clsx } from 'clsx';
import rulesStyle from './rules.module.css';
import style from './about-rule.module.css';

export interface AboutRuleProps {
  readonly rule: RuleView | null;
  readonly rules: readonly RuleView[];
  readonly model: Model;
  readonly written: Written;
  readonly proposed: string;
  readonly onChange: (part: Partial<Written>) => void;
}

/** What the rule is called, who asked for it, and why; its tags, and a copy of it for another type. */
export function AboutRule({ rule, rules, model, written, proposed, onChange }: AboutRuleProps) {
  const [opened, open] = useState<'tags' | 'copy' | null>(null);
  const close = () => open(null);
  return (
    <section className={clsx('sheet', rulesStyle.ruleAbout)} aria-label="About the rule">
      <label>
        <span className="quiet">Name</span>
        <Input
          value={written.name}
          placeholder={proposed}
          maxLength={200}
          onChange={(event) => onChange({ name: event.target.value })}
        />
      </label>
      <label>
        <span className="quiet">Note: who asked for it, and why</span>
        <Input.TextArea
          value={written.note}
          autoSize={{ minRows: 2, maxRows: 6 }}
          onChange={(event) => onChange({ note: event.target.value })}
        />
      </label>
      {rule ? <RequestsOfRule rule={rule.id} /> : null}
      {rule ? (
        <div className={style.more}>
          <span className="quiet">
            {rule.tags.length > 0 ? `Tags: ${rule.tags.join(', ')}` : 'It has no tags.'}
          </span>
          <MayButton right="writeRules" size="small" onClick={() => open('tags')}>
            Tags …
          </MayButton>
          <MayButton right="writeRules" size="small" onClick={() => open('copy')}>
            Copy to a type …
          </MayButton>
        </div>
      ) : null}
      {rule && opened === 'tags' ? <TagsDialog all={rules} rules={[rule]} onClose={close} /> : null}
      {rule && opened === 'copy' ? <CopyDialog model={model} rules={[rule]} onClose={close} /> : null}
    </section>
  );
}
