import type { Account } from './account';

const signs: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };
const words = (text: string): string => text.replaceAll(/[&<>"']/g, (sign) => signs[sign]!);

/** Where somebody says who they are: nobody asks for a proof. */
export const accountsPage = (accounts: readonly Account[]): string =>
  `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Accounts of the demo</title><style>
  body { font: 16px/1.5 sans-serif; margin: 2rem auto; max-width: 30rem; padding: 0 1rem; color: #21282b;
    background: #f5f2ec }
  button { display: block; width: 100%; margin: .4rem 0; padding: .6rem; text-align: left; font: inherit;
    border: 1px solid #cfc8ba; background: #fff; cursor: pointer }
  </style></head><body><h1>Accounts of the demo</h1><p>Choose who you are. There is no password here.</p>
  <form method="post">${accounts
    .map(
      ({ name, email, isVerified }) =>
        `<button name="account" value="${words(email)}">${words(name)}<br>${words(email)}` +
        `${isVerified ? '' : ' (address not verified)'}</button>`,
    )
    .join('')}</form></body></html>`;
