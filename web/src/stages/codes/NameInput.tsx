import { useId } from "react";
import { useVocabulary } from "../../api/queries";

/** The name of a function, with the standard names offered as one types. */
export function NameInput({
  value,
  onChange,
  label,
  autoFocus = false,
}: {
  value: string;
  onChange: (value: string) => void;
  label?: string;
  autoFocus?: boolean;
}) {
  const terms = useVocabulary();
  const list = useId();
  return (
    <>
      <input
        className="field"
        list={list}
        aria-label={label}
        autoFocus={autoFocus}
        autoComplete="off"
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
      <datalist id={list}>
        {terms.data?.map((term) => (
          <option key={term.name} value={term.name}>
            {[term.group, ...term.also].join(", ")}
          </option>
        ))}
      </datalist>
    </>
  );
}
