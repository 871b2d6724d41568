import { useAnnounced } from "../shared/announce";

/** Says aloud what has just happened. */
export function LiveRegion() {
  const { text, number } = useAnnounced();
  return (
    <p role="status" className="sr-only">
      <span key={number}>{text}</span>
    </p>
  );
}
