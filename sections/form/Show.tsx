import { useOpenedForm } from '../../web/client/forms';
import { problemText } from '../../web/client/http';
import { useMe } from '../../web/client/portal';
import { usePlace } from '../../web/place/place';
import { Notice, Skeleton } from '../../web/ui/Notice';
import type { ShowProps } from '../show';
import type { FormInfo } from './entered';
import { Filling } from './Filling';

/** A form, or why there is none to fill in. */
export default function FormShow({ section }: ShowProps<'form'>) {
  const { form, from } = section;
  const { spot } = usePlace();
  const record = spot.record?.section === section.id ? spot.record.id : null;
  if (from !== null && record !== null) return <OpenedForm key={record} section={section} record={record} />;
  if (from !== null) return <Notice kind="say">This form is opened with one of {from}, from there.</Notice>;
  return form === null ? (
    <Notice kind="say">This form can&apos;t be sent at the moment.</Notice>
  ) : (
    <There section={section} form={form} record={null} />
  );
}

function OpenedForm({ section, record }: { section: ShowProps<'form'>['section']; record: string }) {
  const { base, spot } = usePlace();
  const opened = useOpenedForm(base, spot.page, section.id, record);
  if (opened.isPending) return <Skeleton lines={4} />;
  if (opened.isError) return <Notice kind="fault">{problemText(opened.error)}</Notice>;
  return <There section={section} form={opened.data.form} record={record} />;
}

function There({
  section,
  form,
  record,
}: {
  section: ShowProps<'form'>['section'];
  form: FormInfo;
  record: string | null;
}) {
  const { base, spot } = usePlace();
  const page = useMe(base).data?.pages.find(({ id }) => id === spot.page);
  if (form.closed !== null) return <Notice kind="say">{form.closed}</Notice>;
  const isNamed = section.title !== undefined || page?.title === form.title;
  return (
    <div className="grid gap-3">
      {!isNamed && <h2 className="text-lg">{form.title}</h2>}
      <Filling section={section.id} form={form} record={record} />
    </div>
  );
}
