/** What fields are for. */

/** Whether people type into a node. */
export function isTextual(node: Element): boolean {
  if (node instanceof HTMLInputElement)
    return !['checkbox', 'radio', 'file', 'button', 'submit', 'reset', 'image', 'range'].includes(node.type)
  return node instanceof HTMLTextAreaElement || (node as HTMLElement).isContentEditable
}

const SEARCHED = '[role=combobox],[role=searchbox],[type=search],[aria-autocomplete]'
const secrets = new WeakSet<Element>()

/** Whether a field takes a password, or did before the page showed it as plain text. */
export function isSecret(node: Element): boolean {
  // Lists that are searched in ask for a new password only to keep the browser from filling them.
  const asked = /password/.test(node.getAttribute('autocomplete') ?? '') && !node.matches(SEARCHED)
  if (asked || (node as HTMLInputElement).type === 'password') secrets.add(node)
  return secrets.has(node)
}
