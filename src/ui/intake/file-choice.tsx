'use client';

import { Upload } from 'antd';
import style from './file-choice.module.css';

/** Chooses a file: by its dialog, or by dropping it here. */
export function FileChoice({ file, onFile }: { file: File | null; onFile: (file: File) => void }) {
  return (
    // As high as what is in it: by itself it fills the place that it stands in.
    <div>
      <Upload.Dragger
        accept=".csv,.tsv,.txt,.jsonl,.ndjson"
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
          <span>Choose a file, or drop it here: CSV with a row of headings, or JSON Lines</span>
        )}
      </Upload.Dragger>
    </div>
  );
}

const sizeWords = (bytes: number): string =>
  bytes < 1_000_000 ? `${Math.max(1, Math.round(bytes / 1_000))} kB` : `${(bytes / 1_000_000).toFixed(1)} MB`;
