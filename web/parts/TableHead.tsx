/** The titles of a table’s columns. */
export function TableHead({ titles }: { titles: string[] }) {
  return (
    <thead>
      <tr className="border-b border-soft text-xs text-soft">
        {titles.map((title) => (
          <th key={title} scope="col" className="py-1 pr-3 font-normal">
            {title}
          </th>
        ))}
      </tr>
    </thead>
  );
}
