'use client';

import { Button, Input, Upload } from 'antd';
import { useState } from 'react';
import { pastedFile } from './tables';
import style from './file-choice.module.css';

interface FileChoiceProps {
  readonly file: File | null;
  readonly onFile: (file: File) => void;
}

/** Chooses a file: by its dialog, by dropping it here, or by pasting a table that was copied elsewhere. */
export function FileChoice({ file, onFile }: FileChoiceProps) {
  const [pasted, setPasted] = useState<string | null>(null);
  return (
    // As high as what is in it: by itself it fills the place that it stands in.
    <div>
      <Upload.Dragger
        accept=".csv,.tsv,.txt,.jsonl,.ndjson,.xlsx"
        showUploadList={false}
        beforeUpload={(chosen) => {
          onFile(chosen);
          return false;
        }}
        className={style.fileChoice}
      >
        {file ? (
          <span>
            <strong>{file.name}</strong> <span className="quiet">{sizeWords(file.size)}</span> · Choose
            another
          </span>
        ) : (
          <span>Choose a file, or drop it here: CSV or XLSX with a row of headings, or JSON Lines</span>
        )}
      </Upload.Dragger>
      {pasted === null ? (
        <Button type="link" size="small" className={style.paste ?? ''} onClick={() => setPasted('')}>
          Paste a table instead …
        </Button>
      ) : (
        <div className={style.pasting}>
          <Input.TextArea
            aria-label="A table that was copied"
            placeholder="Paste cells that you copied, the row of headings first"
            value={pasted}
            rows={6}
            autoFocus
            onChange={(event) => setPasted(event.target.value)}
          />
          <Button
            disabled={pasted.trim() === ''}
            onClick={() => {
              onFile(pastedFile(pasted));
              setPasted(null);
            }}
          >
            Read the table
          </Button>{' '}
          <Button type="text" onClick={() => setPasted(null)}>
            Cancel
          </Button>
        </div>
      )}
    </div>
  );
}

const sizeWords = (bytes: number): string =>
  bytes < 1_000_000 ? `${Math.max(1, Math.round(bytes / 1_000))} kB` : `${(bytes / 1_000_000).toFixed(1)} MB`;
