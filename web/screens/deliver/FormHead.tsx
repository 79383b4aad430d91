/** The head of something that can be made, with whether it is. */
export function FormHead({
  title,
  isOn,
  onIsOn,
}: {
  title: string;
  isOn: boolean;
  onIsOn: (isOn: boolean) => void;
}) {
  return (
    <h2 className="border-b-2 border-ink pb-1 font-title text-xl">
      <label className="flex items-center gap-2.5">
        <input type="checkbox" checked={isOn} onChange={(event) => onIsOn(event.target.checked)} />
        {title}
      </label>
    </h2>
  );
}
