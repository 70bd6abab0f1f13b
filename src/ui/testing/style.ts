/** Style sheets mean nothing to a test. */
export default {};
