import { Link } from './navigation';

/** What to do first where there is nothing at all yet. */
export const NoTypes = () => (
  <div className="sheet nothing">
    <strong>There is no type of record yet</strong>
    Begin with the <Link href="/model">model</Link>: from a file or a workbook, of which each table becomes a
    type, or by hand. Records, rules and the bench follow from that.
  </div>
);
