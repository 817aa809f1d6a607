import { useMe } from '../../web/client/portal';
import { usePlace } from '../../web/place/place';
import { Notice } from '../../web/ui/Notice';
import type { ShowProps } from '../show';
import { Filling } from './Filling';

/** A form, or why there is none to fill in. */
export default function FormShow({ section }: ShowProps<'form'>) {
  const { form } = section;
  const { base, spot } = usePlace();
  const page = useMe(base).data?.pages.find(({ id }) => id === spot.page);
  if (form === null) return <Notice kind="say">This form can&apos;t be sent at the moment.</Notice>;
  if (form.closed !== null) return <Notice kind="say">{form.closed}</Notice>;
  const isNamed = section.title !== undefined || page?.title === form.title;
  return (
    <div className="grid gap-3">
      {!isNamed && <h2 className="text-lg">{form.title}</h2>}
      <Filling section={section.id} form={form} />
    </div>
  );
}
