/* global expect, Buffer */
/**
 * Jest compares typed arrays element by element, which takes a second for a sheet of 256 × 256. Here two of one kind that have the
 * same bytes are equal at once; all others are left to Jest, so that a failure says what differs.
 */
expect.addEqualityTesters([
  (a, b) => {
    if (!ArrayBuffer.isView(a) || !ArrayBuffer.isView(b) || a.constructor !== b.constructor) return undefined;
    const [left, right] = [a, b].map((v) => Buffer.from(v.buffer, v.byteOffset, v.byteLength));
    return left.equals(right) ? true : undefined;
  },
]);
