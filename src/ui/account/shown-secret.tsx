import style from './account.module.css';

/** A secret that is shown once: pressed, all of it is marked. */
export const ShownSecret = ({ text }: { text: string }) => <code className={style.secret}>{text}</code>;
