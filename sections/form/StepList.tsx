/** Where in a form one is; steps that were passed can be gone back to. */
export function StepList({
  steps,
  at,
  onShow,
}: {
  steps: { id: string; title: string }[];
  at: number;
  onShow: (id: string) => void;
}) {
  return (
    <nav aria-label="Steps">
      <ol className="flex flex-wrap gap-x-5 gap-y-1 border-b border-line">
        {steps.map(({ id, title }, i) => (
          <li
            key={id}
            aria-current={i === at ? 'step' : undefined}
            className={`pb-1.5 ${i === at ? 'border-b-3 border-water font-semibold' : 'text-soft'}`}
          >
            {i < at ? (
              <button type="button" className="min-h-6 text-water underline" onClick={() => onShow(id)}>
                {i + 1}. {title}
              </button>
            ) : (
              <span className="inline-flex min-h-6 items-center">
                {i + 1}. {title}
              </span>
            )}
          </li>
        ))}
      </ol>
    </nav>
  );
}
