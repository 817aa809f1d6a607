const { options } = require('./.dependency-cruiser.cjs');

/**
 * Folders too stand one above the other. Tests reach where they must, so they are left out here; and so are kinds of
 * section, whose folders hold what core, server and web each have to know of them: their files have rules of their own.
 */
module.exports = {
  forbidden: [{ name: 'no-circles-of-folders', severity: 'error', scope: 'folder', from: {}, to: { circular: true } }],
  options: { ...options, exclude: { path: '\\.(test|fixture)\\.tsx?$|^node_modules|^sections/' } },
};
