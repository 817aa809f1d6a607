import { signInRules, type KnownSignInRules, type SignInRules } from '../../core/sign-in/sign-in-rules';
import { Setting } from '../store/models';
import { readSetting } from '../store/store';

const setting = 'builders sign in';

/** How those who build sign in; a second factor is asked of rights. */
export async function readBuilderRules(): Promise<KnownSignInRules> {
  const kept = await readSetting(setting);
  return signInRules(kept === null ? {} : { signIn: JSON.parse(kept) as SignInRules });
}

export async function saveBuilderRules(rules: SignInRules): Promise<void> {
  await Setting.upsert({ name: setting, value: JSON.stringify(rules) });
}
