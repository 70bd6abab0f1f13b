import { Spin } from 'antd';

export function Loading({ what }: { what: string }) {
  return (
    <div className="nothing" role="status">
      <Spin size="small" /> Loading {what} …
    </div>
  );
}
