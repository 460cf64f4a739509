/*
 * What the grammar calls letters of a name, digits and space: as its tokens have it (formula.grammar). Each takes a UTF-16 code (NaN behind
 * the end of a text) and gives yes or no.
 */

/** 0 to 9. */
export const isDigit = (c: number): boolean => c >= 48 && c <= 57;
/** What a name may begin with; a half of a letter beyond the first plane counts as one. */
export const isLetter = (c: number): boolean =>
  (c >= 97 && c <= 122) ||
  (c >= 65 && c <= 90) ||
  c === 95 ||
  (c > 0xa0 && (c < 0x2000 || (c >= 0x200b && c <= 0x202e) || (c >= 0x2030 && c < 0x3000) || (c > 0x3000 && c !== 0xfeff)));
/** Half of a letter beyond the first plane. */
export const isHalf = (c: number): boolean => c >= 0xd800 && c <= 0xdfff;
/** What stands between the parts of a formula and means nothing. */
export const isSpace = (c: number): boolean =>
  c === 32 || c === 9 || c === 10 || c === 13 || (c >= 0xa0 && (c === 0xa0 || (c >= 0x2000 && c <= 0x200a) || c === 0x202f || c === 0x3000 || c === 0xfeff)); // prettier-ignore
