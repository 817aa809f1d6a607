import type { UseFormRegisterReturn } from 'react-hook-form';
import { problemText } from '../../client/http';
import { useConnections, useSourceSchemas } from '../../client/builder';
import { Field } from '../../ui/Field';

/** Stands for a schema that is yet to be made. */
export const newSchema = '+';

/**
 * Where records are: in which database, and there in which schema. Where `mayMake`, also in a new one of the product's
 * own database.
 */
export function SourceFields({
  connection,
  schema,
  chosen,
  faults,
  mayMake = false,
}: {
  mayMake?: boolean;
  connection: UseFormRegisterReturn;
  schema: UseFormRegisterReturn;
  chosen: string;
  faults: { connection?: { message?: string }; schema?: { message?: string } };
}) {
  const connections = useConnections();
  const schemas = useSourceSchemas(chosen);
  return (
    <>
      <Field label="Records are in" fault={faults.connection?.message}>
        {(ids) => (
          <select className="field" {...ids} {...connection}>
            <option value="">Stone Porch's own database</option>
            {connections.data?.connections.map(({ name }) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        )}
      </Field>
      <Field
        label="Database schema"
        fault={faults.schema?.message ?? (schemas.isError ? problemText(schemas.error) : null)}
      >
        {(ids) => (
          <select className="field" {...ids} {...schema}>
            <option value="">choose</option>
            {mayMake && chosen === '' && <option value={newSchema}>a new, empty one …</option>}
            {schemas.data?.schemas.map((each) => (
              <option key={each}>{each}</option>
            ))}
          </select>
        )}
      </Field>
    </>
  );
}
