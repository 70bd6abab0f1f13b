'use client';

import { CloseOutlined } from '@ant-design/icons';
import { Button } from 'antd';
import Image from 'next/image';
import { useEffect, useRef } from 'react';
import { usePlace } from '@/ui/kit/navigation';
import { FirstLookPart, useFirstLook } from './first-look-part';
import { helpFor } from './pages';
import { termMeans, termName } from './terms';
import style from './help.module.css';

/** Help for the place that is open, beside it: what it is for, what can be done there, and the words that it uses. */
export function HelpPanel({ onClose }: { readonly onClose: () => void }) {
  const page = helpFor(usePlace());
  const [look] = useFirstLook();
  const panel = useRef<HTMLElement>(null);
  useEffect(() => panel.current?.focus(), []);
  return (
    <aside
      ref={panel}
      tabIndex={-1}
      className={style.help}
      aria-label="Help"
      onKeyDown={(event) => {
        if (event.key === 'Escape') onClose();
      }}
    >
      <header>
        <h2>{page.title}</h2>
        <Button type="text" aria-label="Close the help" icon={<CloseOutlined />} onClick={onClose} />
      </header>
      {look ? <FirstLookPart /> : null}
      <p className={style.lead}>{page.lead}</p>
      {page.picture ? (
        <a href={`/help/${page.picture[0]}.png`} target="_blank" rel="noreferrer" className={style.picture}>
          <Image
            src={`/help/${page.picture[0]}.png`}
            alt={`Picture: ${page.picture[1]}`}
            width={640}
            height={400}
            unoptimized
          />
        </a>
      ) : null}
      <ul className={style.ways}>
        {page.ways.map((way) => (
          <li key={way}>{way}</li>
        ))}
      </ul>
      {look ? null : <FirstLookPart />}
      <section aria-label="Words">
        <h3>Words</h3>
        <dl className={style.words}>
          {page.terms.map((term) => (
            <div key={term}>
              <dt>{termName(term)}</dt>
              <dd>{termMeans(term)}</dd>
            </div>
          ))}
        </dl>
      </section>
      <p className="quiet">F1 opens and closes this; ? shows the keys.</p>
    </aside>
  );
}
