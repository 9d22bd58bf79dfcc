/** Content keys of revisions: with them in its address, a browser may keep an answer for good. */

const keys = new Map<number, string>();
const MOST = 500;

/** Note the content key of a revision, from an answer of the server. */
export function noteContent({ revision, content }: { revision: number; content: string }) {
  keys.delete(revision);
  keys.set(revision, content);
  const oldest = keys.keys().next().value;
  if (keys.size > MOST && oldest !== undefined) keys.delete(oldest);
}

/** The part of an address that names the content of a revision; empty where it is not known. */
export const contentOf = (revision: number) => {
  const known = keys.get(revision);
  return known ? `&content=${known}` : "";
};
