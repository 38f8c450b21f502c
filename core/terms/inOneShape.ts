/**
 * A document's members in an object of one shape, those that it leaves out undefined. Documents come in as many shapes
 * as there are ways to leave members out, and reading a member that is not there of each of them is slow; this reads
 * what is there once.
 * @param shape gives a new object with every member that a document may have
 */
export function inOneShape<Shape extends object>(shape: () => Shape, document: object): Shape {
  const members = shape() as Record<string, unknown>;
  for (const name in document) members[name] = (document as Record<string, unknown>)[name];
  return members as Shape;
}
