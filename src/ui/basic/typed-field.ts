/** A field between its value, which may come from elsewhere, and what a person types into it. */
export interface TypedField {
  /** What stands in the field. */
  readonly text: string;
  /** The value that arrived or was handed on last. */
  readonly value: string;
  /** Whether a person has typed since then. */
  readonly isTyped: boolean;
}

/**
 * @param value the field's value
 * @returns a field in which nothing was typed yet
 */
export function fieldOf(value: string): TypedField {
  return { text: value, value, isTyped: false };
}

/**
 * @param field the field
 * @param text what a person made of its text
 * @returns the field with that text, which is to be handed on
 */
export function typeInto(field: TypedField, text: string): TypedField {
  return { ...field, text, isTyped: true };
}

/**
 * @param field the field
 * @param value the value as it is now
 * @returns the field with a value that comes from elsewhere (an undo, the file); what was handed on by the field
 * itself leaves the text as it was typed
 */
export function valueArrives(field: TypedField, value: string): TypedField {
  return value === field.value ? field : fieldOf(value);
}

/**
 * Only what a person typed is handed on: a text that merely stood in the field may be older than the value by the
 * time its timer ends.
 * @param field the field
 * @param clean what becomes of a text before it is handed on
 * @returns the field afterwards, and the text to hand on if it is another one than the value
 */
export function handOn(
  field: TypedField,
  clean: (text: string) => string,
): { readonly field: TypedField; readonly send: string | undefined } {
  if (!field.isTyped) return { field, send: undefined };
  const next = clean(field.text);
  const settled = { text: field.text, value: next, isTyped: false };
  return { field: settled, send: next === field.value ? undefined : next };
}
