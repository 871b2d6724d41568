import { useState } from "react";
import { useSample, type Kind, type Mailing } from "../api/mailing";
import { Refusal } from "../kit/Alert";
import { Select, TextInput } from "../kit/inputs";
import { PartHead } from "../kit/PartHead";
import { usePaced } from "../shared/usePaced";
import { LetterText } from "./LetterText";
import { KIND_ORDER, KINDS } from "./words";

/** What an account would be written about something, whether or not it is so. */
export function Sample({
  domain,
  mailing,
  languages,
}: {
  domain: string;
  mailing: Mailing;
  languages: string[];
}) {
  const [account, setAccount] = useState("");
  const [kind, setKind] = useState<Kind>("expiring");
  const [language, setLanguage] = useState("");
  const asked = usePaced(account.trim());
  const sample = useSample(domain, { mailing, account: asked, kind, language });
  return (
    <section aria-label="A letter beforehand">
      <PartHead>A letter beforehand</PartHead>
      <div className="my-1 grid grid-cols-[minmax(0,1fr)_auto] gap-1.5">
        <TextInput
          aria-label="Account that would be written to"
          placeholder="Name of an account"
          value={account}
          maxLength={1000}
          onChange={(event) => setAccount(event.target.value)}
        />
        <Select
          aria-label="Language of the letter"
          value={language}
          onChange={(event) => setLanguage(event.target.value)}
        >
          <option value="">as preferred</option>
          {languages.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </Select>
        <Select
          aria-label="What the letter is about"
          className="col-span-2"
          value={kind}
          onChange={(event) => setKind(event.target.value as Kind)}
        >
          {KIND_ORDER.map((one) => (
            <option key={one} value={one}>
              {KINDS[one].label}
            </option>
          ))}
        </Select>
      </div>
      {asked !== "" && <Refusal error={sample.error} />}
      {asked !== "" && sample.data && !sample.error && <LetterText {...sample.data} />}
    </section>
  );
}
