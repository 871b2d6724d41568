import { OPENING, useGoElsewhere } from "../api/elsewhere";
import { useMe } from "../api/people";
import { Refusal } from "../kit/Alert";
import { Button, ButtonLink } from "../kit/Button";

const WIDE = "w-full justify-center";

/**
 * The way in at the provider. With `beside` another tab goes there, and this one goes on with what
 * is typed in it as soon as that one is back.
 */
export function ProviderButton({ beside }: { beside?: keyof typeof OPENING }) {
  const provider = useMe().data?.provider ?? "";
  const go = useGoElsewhere();
  if (!provider) return null;
  if (beside)
    return (
      <>
        <ButtonLink
          size="large"
          className={WIDE}
          href={OPENING[beside]}
          target="_blank"
          rel="noopener"
          ref={(link) => link?.focus()}
        >
          {beside === "first" ? "Sign in at" : "Show it at"} {provider}
        </ButtonLink>
        <p className="mt-1 text-xs text-soft">
          In another tab; this one goes on when you are back.
        </p>
      </>
    );
  return (
    <>
      <Button
        size="large"
        className={WIDE}
        aria-busy={go.isPending}
        onClick={() => {
          if (!go.isPending) go.mutate();
        }}
      >
        Sign in at {provider}
      </Button>
      <div className="mt-3 empty:hidden">
        <Refusal error={go.error} />
      </div>
    </>
  );
}
