import { Button } from './controls.tsx';
import { fieldClass } from './FigureField.tsx';

/** The name of something, in a dialog. */
export function NameOf({ value, onChange }: { value: string; onChange: (value: string) => void }) {
  return (
    <label className="block">
      <span className="text-sm text-soft">Name</span>
      <input
        className={`${fieldClass} block w-full`}
        value={value}
        maxLength={80}
        onChange={(event) => onChange(event.target.value)}
      />
    </label>
  );
}

/** The foot of a dialog that is a form: what sends it, Cancel, and perhaps Remove. */
export function DialogFoot({
  submit,
  disabled,
  onClose,
  onRemove,
}: {
  submit: string;
  disabled: boolean;
  onClose: () => void;
  onRemove?: () => void;
}) {
  return (
    <div className="flex flex-wrap gap-2 border-t border-rule pt-3">
      <Button type="submit" weight="main" disabled={disabled}>
        {submit}
      </Button>
      <Button onClick={onClose}>Cancel</Button>
      {onRemove && (
        <Button
          weight="danger"
          className="ml-auto"
          title="Can be undone"
          onClick={() => {
            onRemove();
            onClose();
          }}
        >
          Remove
        </Button>
      )}
    </div>
  );
}
