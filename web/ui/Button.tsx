import type { ButtonHTMLAttributes } from 'react';

export type Weight = 'main' | 'plain' | 'quiet' | 'danger';

const looks: Record<Weight, string> = {
  main: 'bg-lichen text-white border-lichen hover:brightness-110',
  plain: 'bg-paper text-ink border-line-strong hover:bg-sunk',
  quiet: 'bg-transparent text-ink border-transparent hover:bg-sunk',
  danger: 'bg-paper text-iron border-iron hover:bg-iron-wash',
};

export function buttonLook(weight: Weight, small = false): string {
  return (
    'inline-flex items-center justify-center gap-1.5 rounded-stone border font-semibold whitespace-nowrap ' +
    'no-underline transition-colors disabled:opacity-50 disabled:pointer-events-none ' +
    `${small ? 'px-2 py-0.5 text-sm min-h-7' : 'px-3 py-1 min-h-9'} ${looks[weight]}`
  );
}

/** A button in one of our four weights. */
export function Button({
  weight = 'plain',
  small = false,
  className = '',
  type = 'button',
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { weight?: Weight; small?: boolean }) {
  return <button type={type} className={`${buttonLook(weight, small)} ${className}`} {...rest} />;
}
