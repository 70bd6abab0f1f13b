import { Button, Input } from 'antd';
import { useId, useState } from 'react';
import { asInserted, functionsFound } from './function-list';
import style from './function-table.module.css';

/** Every function of the notation, folded until it is wanted: found by a search, read with an example each, put where the caret stands. */
export function FunctionTable({ onInsert }: { readonly onInsert: (text: string) => void }) {
  const [isOpen, setOpen] = useState(false);
  const [search, setSearch] = useState('');
  const id = useId();
  const found = functionsFound(search);
  return (
    <div className={style.functions}>
      <Button
        size="small"
        type="text"
        aria-expanded={isOpen}
        aria-controls={id}
        onClick={() => setOpen(!isOpen)}
      >
        {isOpen ? 'Hide the functions' : 'Functions …'}
      </Button>
      {isOpen ? (
        <div id={id} className={style.opened}>
          <Input
            aria-label="Search the functions"
            placeholder="What should it do? such as text, month, round"
            value={search}
            autoFocus
            onChange={(event) => setSearch(event.target.value)}
            onPressEnter={(event) => {
              // It stands within a form, which Enter would close.
              event.preventDefault();
              const [first] = found;
              if (search.trim() && first) onInsert(asInserted(first));
            }}
          />
          <ul className={style.list} aria-label="Functions">
            {found.map((one) => (
              <li key={`${one.name}${one.takes}`}>
                <button type="button" className={style.name} onClick={() => onInsert(asInserted(one))}>
                  {one.name}
                  {one.takes}
                </button>
                <span>{one.help}</span>
                {one.examples.slice(0, 2).map(({ text, comesTo }) => (
                  <span key={text} className={style.example}>
                    {text}
                    {comesTo ? ` = ${comesTo}` : ''}
                  </span>
                ))}
              </li>
            ))}
          </ul>
          {found.length === 0 ? (
            <p className="quiet">No function does that. Try another word, such as “date” or “text”.</p>
          ) : null}
        </div>
      ) : null}
    </div>
  );
}
