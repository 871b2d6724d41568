import { DropdownMenu } from "radix-ui";
import { useNavigate } from "react-router";
import { domainOf, draftOf } from "../draft/place";
import { Button } from "../kit/Button";
import { useUnsaved } from "../shared/kept";

/** What is typed in this domain and not saved, each a way back to it. */
export function Unsaved({ domain }: { domain: string }) {
  const unsaved = useUnsaved().filter((work) => domainOf(work.place) === domainOf(domain));
  const navigate = useNavigate();
  if (unsaved.length === 0) return null;
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger asChild>
        <Button className="border-warn bg-warnbg" title="Typed in this tab and not saved">
          <span aria-hidden>✎</span> {unsaved.length} unsaved
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Content
        align="end"
        sideOffset={6}
        className="z-50 max-w-96 min-w-48 rounded-md border border-edge bg-white p-1 shadow-lg"
      >
        {unsaved.map((work) => (
          <DropdownMenu.Item
            key={`${work.place} ${work.about}`}
            className="flex cursor-pointer items-center rounded px-2 py-1 outline-none data-[highlighted]:bg-hover"
            onSelect={() => void navigate(work.to)}
          >
            <span className="truncate" title={work.label}>
              {work.label}
            </span>
            <span className="ml-6 shrink-0 text-xs text-soft">
              {draftOf(work.place) === null
                ? "begun in live"
                : work.place === domain
                  ? "this draft"
                  : `draft ${draftOf(work.place)}`}
            </span>
          </DropdownMenu.Item>
        ))}
      </DropdownMenu.Content>
    </DropdownMenu.Root>
  );
}
