import { Button, ButtonLink, Kbd } from "../Button";

const TONES = ["main", "plain", "danger", "quiet"] as const;
const SIZES = ["small", "plain", "large"] as const;

/** Buttons in every tone and size, off and busy. */
export function Buttons() {
  return (
    <>
      {SIZES.map((size) => (
        <div key={size} className="flex flex-wrap gap-2">
          {TONES.map((tone) => (
            <Button key={tone} tone={tone} size={size}>
              {tone}, {size}
            </Button>
          ))}
        </div>
      ))}
      <div className="flex flex-wrap items-center gap-2">
        <Button disabled>Off</Button>
        <Button aria-busy>Saving …</Button>
        <ButtonLink href="#screen">A link</ButtonLink>
        <Kbd>K</Kbd>
      </div>
    </>
  );
}
