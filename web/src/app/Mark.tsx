/** Hornfels: a dark, banded stone. */
export function Mark({ size }: { size: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 32 32" aria-hidden>
      <path d="M4 26 7 11l9-6 11 5 2 16z" fill="#4a525b" />
      <path d="M5.4 19.5 28 13.2M4.6 24.2 28.8 18" stroke="#d8b13c" strokeWidth="2.2" fill="none" />
      <path d="m6.5 14 15-4.6" stroke="#d8b13c" strokeWidth="1.8" fill="none" />
    </svg>
  );
}
