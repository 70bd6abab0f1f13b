import { Button } from 'antd';
import style from './more.module.css';

export interface MoreProps {
  readonly label: string;
  readonly hasNextPage: boolean;
  readonly isFetchingNextPage: boolean;
  readonly fetchNextPage: () => Promise<unknown>;
}

/** The way on where a list goes on. */
export function More({ label, hasNextPage, isFetchingNextPage, fetchNextPage }: MoreProps) {
  if (!hasNextPage) return null;
  return (
    <p className={style.more}>
      <Button loading={isFetchingNextPage} onClick={() => void fetchNextPage()}>
        {label}
      </Button>
    </p>
  );
}
