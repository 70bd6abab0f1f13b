import type { Right } from '@/core/api';
import { Button, type ButtonProps } from 'antd';
import { useWhyNot } from '@/ui/api/may';

/** A press that takes a right: whoever hasn't got it finds it greyed, and reads why. */
export function MayButton({ right, disabled, title, ...props }: ButtonProps & { readonly right: Right }) {
  const whyNot = useWhyNot(right);
  return <Button {...props} disabled={disabled === true || whyNot !== null} title={whyNot ?? title} />;
}
