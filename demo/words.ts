export const firstNames = (
  'Ines Mara Tobin Oda Perrin Sunniva Calder Linnea Rook Edda Fenner Isolde Garrick Maren Alban Thea Corwin ' +
  'Hedda Jory Signe Lowell Freya Anselm Runa Bram Tilda Ewan Astrid Merle Juno Osric Vesna Hale Greta Piers ' +
  'Liv Dacre Nell Soren Ada'
).split(' ');

export const lastNames = (
  'Brannock Oyelaran Whitlow Eskildsen Adair Lindqvist Thackray Marchetti Dunmore Quillfeather Harsant Okonjo ' +
  'Pellew Strand Vasquez Cobbold Ferreby Nakagawa Rushmere Tolland Ashdown Kovacic Merriman Sedgewick Yarrow ' +
  'Underhill Bexley Castellan Drummond Ellershaw'
).split(' ');

export const parishes = [
  'Harrow End',
  'Saltby',
  'Reedmere',
  'Alder St Mary',
  'Fenwick Cross',
  'Cold Marsh',
  'Thorn Eau',
  'Oxlode',
  'Brackwater',
  'Little Withy',
];

export const streets = [
  'Mill Lane',
  'Drove Road',
  'Church Walk',
  'Sluice Bank',
  'Heron Way',
  'Long Dyke',
  'Willow Row',
  'Chapel Street',
  'Peat Lane',
  'Lode End',
];

export const notes = [
  'Gate code at the desk.',
  'Dog in the yard.',
  'Ring before 9.',
  'Key under the blue pot.',
  'Well behind the barn.',
  "Ask at the neighbour's.",
  null,
  null,
  null,
];

export const treatments = ['softener', 'UV', 'iron filter', 'reverse osmosis', 'chlorination'];
