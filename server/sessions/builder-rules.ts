import { signInRules, type KnownSignInRules, type SignInRules } from '../../core/sign-in/sign-in-rules';
import { Setting } from '../store/models';
import { readSetting } from '../store/store';

export const rulesSetting = 'builders sign in';

/** How those who build sign in; a second factor is asked of rights. */
export async function readBuilderRules(): Promise<KnownSignInRules> {
  return builderRules(await readSetting(rulesSetting));
}

/** As `readBuilderRules`, of the setting's text. */
export function builderRules(kept: string | null): KnownSignInRules {
  return signInRules(kept === null ? {} : { signIn: JSON.parse(kept) as SignInRules });
}

export async function saveBuilderRules(rules: SignInRules): Promise<void> {
  await Setting.upsert({ name: rulesSetting, value: JSON.stringify(rules) });
}
