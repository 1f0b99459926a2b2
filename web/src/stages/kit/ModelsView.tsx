import { Copy, Plus, Trash2 } from "lucide-react";
import { useCopy, useEdit, useLibrary } from "../../api/queries";
import type { Profile } from "../../api/types";
import { useRoom } from "../../shell/context";
import { Waiting } from "../../ui/Waiting";
import { KINDS, mediumName, powerText, readyText, selectionText } from "./words";

/** The models of the house and of the library that ships: what each is, taken over, duplicated, removed. */
export function ModelsView({ onOpen }: { onOpen: (device: string) => void }) {
  const { house, say } = useRoom();
  const library = useLibrary(true);
  const copy = useCopy(house.house.id);
  const edit = useEdit(house.house.id);
  const take = (what: "profile" | "model", id: string) =>
    copy.mutate(
      { what, id },
      { onSuccess: (saved) => say(saved.title), onError: (error) => say(error.message) },
    );
  return (
    <section aria-label="Models" className="grid gap-4 *:min-w-0">
      <div>
        <h3 className="text-[16px]">Models of this house</h3>
        <ModelTable
          label="Models of this house"
          models={house.profiles}
          last={(model) => {
            const users = house.devices.filter((device) => device.profile === model.id);
            return (
              <>
                {users.map((device) => (
                  <button
                    key={device.id}
                    type="button"
                    className="link mr-2 text-[13px]"
                    onClick={() => onOpen(device.id)}
                  >
                    {device.name}
                  </button>
                ))}
                <span className="float-right whitespace-nowrap">
                  <button
                    type="button"
                    className="btn border-transparent px-2"
                    aria-label={`Duplicate ${model.maker} ${model.model}`}
                    disabled={copy.isPending}
                    onClick={() => take("profile", model.id)}
                  >
                    <Copy aria-hidden size={15} />
                  </button>
                  {users.length === 0 && (
                    <button
                      type="button"
                      className="btn border-transparent px-2"
                      aria-label={`Remove ${model.maker} ${model.model}`}
                      disabled={edit.isPending}
                      onClick={() =>
                        edit.mutate(
                          [
                            {
                              do: "remove",
                              kind: "profile",
                              id: model.id,
                              base: house.versions[model.id] ?? 0,
                            },
                          ],
                          { onSuccess: (saved) => say(saved.title), onError: (error) => say(error.message) },
                        )
                      }
                    >
                      <Trash2 aria-hidden size={15} />
                    </button>
                  )}
                </span>
              </>
            );
          }}
          heading="Used by"
        />
      </div>
      <div>
        <h3 className="text-[16px]">The library</h3>
        <p className="text-[13px] text-muted">
          Models that ship with the product. Taking one over copies it: what you change then is yours.
        </p>
        {library.data ? (
          <ModelTable
            label="Models of the library"
            models={library.data}
            heading="Take over"
            last={(model) => (
              <button
                type="button"
                className="btn"
                disabled={copy.isPending}
                onClick={() => take("model", model.id)}
                aria-label={`Take ${model.maker} ${model.model} over`}
              >
                <Plus aria-hidden size={15} /> Take over
              </button>
            )}
          />
        ) : (
          <Waiting what="the library" error={library.error} />
        )}
      </div>
    </section>
  );
}

function ModelTable({
  label,
  models,
  heading,
  last,
}: {
  label: string;
  models: Profile[];
  heading: string;
  last: (model: Profile) => React.ReactNode;
}) {
  const sorted = [...models].sort((a, b) => `${a.maker} ${a.model}`.localeCompare(`${b.maker} ${b.model}`));
  return (
    <div className="scrolls">
      <table className="w-full" aria-label={label}>
        <thead>
          <tr className="border-b border-ink text-[13px] text-muted">
            <th scope="col" className="py-1 pr-3">
              Model
            </th>
            <th scope="col" className="px-2">
              What it is
            </th>
            <th scope="col" className="px-2">
              Power
            </th>
            <th scope="col" className="px-2">
              Ready after
            </th>
            <th scope="col" className="px-2">
              Inputs
            </th>
            <th scope="col" className="px-2">
              Offers
            </th>
            <th scope="col" className="px-2">
              {heading}
            </th>
          </tr>
        </thead>
        <tbody>
          {sorted.map((model) => (
            <tr key={model.id} className="border-b border-rule align-top">
              <th scope="row" className="py-1.5 pr-3 font-normal whitespace-nowrap">
                {model.maker} <span className="font-semibold">{model.model}</span>
              </th>
              <td className="px-2 py-1.5">{KINDS.find(([kind]) => kind === model.kind)?.[1]}</td>
              <td className="px-2 py-1.5">{powerText(model)}</td>
              <td className="px-2 py-1.5 whitespace-nowrap">{readyText(model).time}</td>
              <td className="px-2 py-1.5">
                {[String(model.inputs.length), selectionText(model)].filter(Boolean).join(", ")}
              </td>
              <td className="px-2 py-1.5">
                {model.offers.map((offer) => mediumName(offer.medium)).join(", ")}
              </td>
              <td className="px-2 py-1">{last(model)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
