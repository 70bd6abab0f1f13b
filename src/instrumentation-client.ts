import { guardLeaving } from '@/ui/kit/unsaved';

// Next.js runs this in the browser before anything else of the application.
guardLeaving();
