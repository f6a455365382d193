import '../src/core/compute';
const { DAB_MEASUREMENTS } = await import('./bench/dabs');
await DAB_MEASUREMENTS[process.argv[2]]();
