import { useState } from "react";
import { Button } from "../shared/controls";
import { TextInput } from "../shared/fields";

/** Connect the directory of a domain that is not here yet. */
export function ConnectNew({ onChosen }: { onChosen: (domain: string) => void }) {
  const [name, setName] = useState("");
  return (
    <section
      aria-label="Connect a directory"
      className="mt-5 rounded-md border border-line bg-sheet p-3"
    >
      <h2 className="mb-1 text-sm">Connect a directory</h2>
      <p className="text-soft">
        Read a domain from its own servers, and again by itself, instead of from dumps.
      </p>
      <form
        className="mt-2 flex flex-wrap gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          const chosen = name.trim().toLowerCase();
          if (chosen) onChosen(chosen);
        }}
      >
        <TextInput
          aria-label="DNS name of the domain"
          placeholder="DNS name of the domain"
          className="w-56 flex-auto"
          maxLength={255}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <Button type="submit">Connect …</Button>
      </form>
    </section>
  );
}
