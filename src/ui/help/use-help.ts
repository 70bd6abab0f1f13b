import { useKept } from '@/ui/kit/hooks/use-kept';

const isYes = (value: unknown): value is boolean => typeof value === 'boolean';

/** Whether help stands beside the page: as this browser remembers it. */
export const useHelp = () => useKept<boolean>('help', false, isYes);
