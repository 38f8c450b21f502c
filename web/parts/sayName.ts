/** The name of a member in words: 'contactAddress' is 'Contact address'. */
export function sayName(name: string): string {
  const words = name
    .replace(/([A-Z])/g, ' $1')
    .replaceAll('_', ' ')
    .toLowerCase();
  return words.charAt(0).toUpperCase() + words.slice(1);
}
