/** A text that begins with a capital. @example capital('try the card again') // 'Try the card again' */
export function capital(text: string): string {
  return `${text.slice(0, 1).toUpperCase()}${text.slice(1)}`;
}
