/** A line of a vCard or an iCalendar is at most this long, in octets; what is longer goes on in the next line after a space (RFC 6350, 3.2; RFC 5545, 3.1). */
const LONGEST = 75;

/** Folded between characters, never inside of one. */
export function foldedLine(line: string): string {
  let [length, result] = [0, ''];
  for (const character of line) {
    const octets = Buffer.byteLength(character);
    if (length + octets > LONGEST) {
      result += '\r\n ';
      length = 1;
    }
    result += character;
    length += octets;
  }
  return result;
}

/** Text as both formats hold it. */
export const escapedText = (text: string): string => text.replace(/[\\,;]/g, '\\$&').replace(/\r\n|\r|\n/g, '\\n');
