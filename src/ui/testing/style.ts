/** Style sheets mean nothing to a test. */
const style = {};

export default style;
