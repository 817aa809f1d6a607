import type { Control, FieldPath, FieldValues } from 'react-hook-form';
import { problemText } from '../../client/http';
import { useConnections, useSourceSchemas } from '../../client/builder';
import { Field } from '../../ui/Field';
import { FormSelect } from '../../ui/FormSelect';

/** Stands for a schema that is yet to be made. */
export const newSchema = '+';

/**
 * Where records are: in which database, and there in which schema. Where `mayMake`, also in a new one of the product's
 * own database.
 */
export function SourceFields<T extends FieldValues & { connection: string; schema: string }>({
  control,
  onConnection,
  chosen,
  faults,
  mayMake = false,
}: {
  mayMake?: boolean;
  control: Control<T>;
  /** The schemas are others then. */
  onConnection: () => void;
  chosen: string;
  faults: { connection?: { message?: string }; schema?: { message?: string } };
}) {
  const connections = useConnections();
  const schemas = useSourceSchemas(chosen);
  return (
    <>
      <Field label="Records are in" fault={faults.connection?.message}>
        {(ids) => (
          <FormSelect {...ids} control={control} name={'connection' as FieldPath<T>} onPicked={onConnection}>
            <option value="">Stone Porch's own database</option>
            {connections.data?.connections.map(({ name }) => (
              <option key={name}>{name}</option>
            ))}
          </FormSelect>
        )}
      </Field>
      <Field
        label="Database schema"
        fault={faults.schema?.message ?? (schemas.isError ? problemText(schemas.error) : null)}
      >
        {(ids) => (
          <FormSelect
            {...ids}
            control={control}
            name={'schema' as FieldPath<T>}
            rules={{ required: 'Choose where the records are.' }}
          >
            <option value="">choose</option>
            {mayMake && chosen === '' && <option value={newSchema}>a new, empty one …</option>}
            {schemas.data?.schemas.map((each) => (
              <option key={each}>{each}</option>
            ))}
          </FormSelect>
        )}
      </Field>
    </>
  );
}
