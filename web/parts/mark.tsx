/** The program's mark: a stem with three buds. */
export function Mark() {
  return (
    <svg width="28" height="30" viewBox="0 0 28 30" role="img" aria-label="Family Tree">
      <path
        d="M14 28 V8 M6 8 v5 a6 6 0 0 0 6 6 h2 M22 8 v5 a6 6 0 0 1 -6 6 h-2"
        fill="none"
        stroke="currentColor"
        strokeWidth="2"
        strokeLinecap="round"
      />
      <circle cx="14" cy="5" r="2.6" className="fill-pivot" />
      <circle cx="6" cy="6" r="2.6" className="fill-to-one" />
      <circle cx="22" cy="6" r="2.6" className="fill-to-many" />
    </svg>
  );
}
