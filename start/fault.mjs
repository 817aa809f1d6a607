/**
 * What a command prints of an error that it did not foresee: its kind and where it happened, never its message or
 * statement, which can hold values of records, addresses and passwords. What people can mend is said as a sentence.
 */
export function faultWords(error) {
  const all = withCauses(error);
  const codes = all.flatMap((each) => [each.code, each.errno]).filter((each) => each !== undefined && each !== null);
  // The system's codes; MariaDB's for a full disk (1021, 1114, and 3 or 1026 where writing a file failed).
  if (
    codes.some((code) =>
      ['ENOSPC', 'EDQUOT', 'ER_DISK_FULL', 'ER_RECORD_FILE_FULL', 1021, 1114, 3, 1026, '53100'].includes(code),
    )
  )
    return (
      'There is no room left on the disk of the data folder. Make room, then start again; what was kept is still ' +
      'there.'
    );
  const places = all
    .map((each) =>
      String(each.stack ?? '')
        .split('\n')
        .filter((line) => /^\s+at /.test(line))
        .slice(0, 12)
        .join('\n'),
    )
    .filter(Boolean);
  return [
    'Stone Porch met a fault that it did not foresee ' +
      `(${all.map((each) => String(each.name ?? typeof each)).join(', of ')}` +
      `${codes.length ? `; ${[...new Set(codes)].join(', ')}` : ''}).`,
    ...new Set(places),
  ].join('\n');
}

function withCauses(error) {
  const found = [];
  for (let left = [error]; left.length > 0 && found.length < 10;) {
    const each = left.shift();
    if (typeof each !== 'object' || each === null || found.includes(each)) continue;
    found.push(each);
    left = [...left, each.parent, each.original, each.cause];
  }
  return found.length > 0 ? found : [{ name: typeof error }];
}
