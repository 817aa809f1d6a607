/**
 * Whether a default tells when a record was made, in which order, or by whom: clocks, sequences, whoever is connected,
 * and ids that are made of the moment. MariaDB's UUID() is of version 1, which holds the moment and the machine (RFC
 * 9562); `gen_random_uuid()` and the random functions tell nothing.
 */
export const tellsByDefault = (expression: string): boolean =>
  telling.test(expression.replaceAll(/'(?:[^']|'')*'/g, ''));

const telling = new RegExp(
  [
    String.raw`\b(uuid|uuid_short|uuid_v7|uuidv7|sys_guid|uuid_generate_v1|uuid_generate_v1mc)\s*\(`,
    String.raw`\b(now|curdate|curtime|sysdate|unix_timestamp|utc_date|utc_time|utc_timestamp|timeofday)\b`,
    String.raw`\b(clock|statement|transaction)_timestamp\b`,
    String.raw`\b(current|local)_?(date|time|timestamp|user|role)`,
    String.raw`\b(user|session_user|system_user|connection_id|pg_backend_pid)\b`,
    String.raw`\b(inet_client_addr|current_setting|nextval)\b`,
  ].join('|'),
  'i',
);
