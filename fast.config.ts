import base from './playwright.config';
export default { ...base, expect: { timeout: 12000 }, timeout: 60000, reporter: 'list' };
