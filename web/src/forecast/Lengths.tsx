import { useLengths } from "../api/forecast";
import { ApiError } from "../api/client";
import { Refusal } from "../kit/Alert";
import { Failure, Loading } from "../kit/Loading";
import { TextInput } from "../kit/inputs";
import { PartHead } from "../kit/PartHead";
import { useUrlState } from "../shared/useUrlState";
import { Counts } from "./Count";

/** How many present passwords a minimum length would find too short, as far as it is known. */
export function Lengths({ place }: { place: string }) {
  const [least, setLeast] = useUrlState("least");
  const { data, error, refetch, isPlaceholderData } = useLengths(place, least);
  const fields = error instanceof ApiError ? error.fields : [];
  return (
    <section aria-label="Present lengths">
      <PartHead level={2}>Present lengths</PartHead>
      <label className="flex flex-wrap items-center gap-1.5 py-1">
        Against a minimum of
        <TextInput
          className="w-14 text-right"
          inputMode="numeric"
          placeholder="own"
          maxLength={4}
          aria-invalid={fields.length > 0}
          value={least}
          onChange={(event) => setLeast(event.target.value)}
        />
        characters
      </label>
      <Refusal error={fields[0]?.message ?? null} />
      {error && fields.length === 0 ? (
        <Failure error={error} retry={() => void refetch()} />
      ) : !data ? (
        !error && <Loading what="present lengths" />
      ) : (
        <>
          <Counts
            counts={[
              ["are surely shorter", data.shorter],
              ["are surely long enough", data.enough],
              ["are of a length band that has both", data.either],
              ["are of unknown length", data.unseen],
            ]}
            aria-label={`Against ${least ? `a minimum of ${least}` : "their minimum length"}`}
            className={error || isPlaceholderData ? "opacity-40" : ""}
          />
          <p className="pt-1 text-xs text-soft">{data.told}</p>
        </>
      )}
    </section>
  );
}
