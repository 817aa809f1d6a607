import { Notice } from '../../web/ui/Notice';
import type { ShowProps } from '../show';
import { Filling } from './Filling';

/** A form, or why there is none to fill in. */
export default function FormShow({ section }: ShowProps<'form'>) {
  const { form } = section;
  if (form === null) return <Notice kind="say">This form can&apos;t be sent at the moment.</Notice>;
  if (form.closed !== null) return <Notice kind="say">{form.closed}</Notice>;
  return <Filling section={section.id} form={form} />;
}
