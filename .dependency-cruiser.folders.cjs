const { options } = require('./.dependency-cruiser.cjs');

/** Folders too stand one above the other. Tests reach where they must, so they are left out here. */
module.exports = {
  forbidden: [{ name: 'no-circles-of-folders', severity: 'error', scope: 'folder', from: {}, to: { circular: true } }],
  options: { ...options, exclude: { path: '\\.(test|fixture)\\.tsx?$|^node_modules' } },
};
