/** A worker for tests that dies of one hand-in, and holds every other for right. */
module.exports = ({ source }) => {
  if (source.includes('kill')) process.exit(1);
  return { result: { cells: 1, frame: [], rows: [], holds: 0, ticks: 0 } };
};
