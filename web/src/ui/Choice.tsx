import { Check, ChevronDown } from "lucide-react";
import { Select } from "radix-ui";

/** One option of a [Choice]. */
export interface Option {
  value: string;
  label: string;
  /** Said after the label, muted. */
  hint?: string;
  disabled?: boolean;
}

/** A drop-down list. */
export function Choice({
  value,
  options,
  onChange,
  label,
  id,
  className = "",
  disabled = false,
  placeholder = "–",
}: {
  value: string;
  options: Option[];
  onChange: (value: string) => void;
  label: string;
  id?: string;
  className?: string;
  disabled?: boolean;
  /** What stands there while nothing is chosen. */
  placeholder?: string;
}) {
  const chosen = options.find((option) => option.value === value);
  return (
    <Select.Root value={value} onValueChange={onChange} disabled={disabled}>
      <Select.Trigger
        id={id}
        aria-label={label}
        className={`field flex items-center justify-between gap-2 text-left hover:bg-soft ${className}`}
      >
        <span className="truncate">
          <Select.Value placeholder={placeholder}>{chosen?.label ?? placeholder}</Select.Value>
        </span>
        <Select.Icon>
          <ChevronDown aria-hidden size={15} className="text-muted" />
        </Select.Icon>
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={2}
          collisionPadding={8}
          className="z-50 max-h-[min(20rem,var(--radix-select-content-available-height))] min-w-[var(--radix-select-trigger-width)] overflow-auto border border-edge bg-paper text-ink shadow-md"
        >
          <Select.Viewport>
            {options.map((option) => (
              <Select.Item
                key={option.value}
                value={option.value}
                disabled={option.disabled ?? false}
                className="flex min-h-8 cursor-pointer items-center gap-2 px-2 pr-4 outline-none data-[disabled]:text-muted data-[highlighted]:bg-select"
              >
                <span className="w-4 shrink-0">
                  <Select.ItemIndicator>
                    <Check aria-hidden size={14} />
                  </Select.ItemIndicator>
                </span>
                <Select.ItemText>{option.label}</Select.ItemText>
                {option.hint && <span className="text-[13px] text-muted">{option.hint}</span>}
              </Select.Item>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}
