/** The head of a column whose cells say what it is, for those who hear a table. */
export function HiddenHead({ name }: { readonly name: string }) {
  return (
    <th className="relative">
      <span className="sr-only">{name}</span>
    </th>
  );
}
