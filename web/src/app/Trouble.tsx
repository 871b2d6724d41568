import { useTrouble } from "../api/trouble";

/** In the top bar: what is wrong with the server as a whole, for as long as it is. */
export function Trouble() {
  const wrong = useTrouble();
  return (
    <div className="min-w-0 flex-1 small:hidden small:has-[p]:block">
      {wrong && (
        <p role="alert" className="truncate font-medium text-fail" title={wrong}>
          △ {wrong}
        </p>
      )}
    </div>
  );
}
