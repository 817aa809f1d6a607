/** Somebody whom the provider knows. */
export interface Account {
  email: string;
  name: string;
  isVerified: boolean;
}
