import base from './playwright.config';
export default { ...base, expect: { timeout: 12000 }, timeout: 150000, reporter: 'list' };
