/** No module needs itself by way of others; what is imported for its types alone is nothing at run time. */
module.exports = {
  forbidden: [
    {
      name: 'no-circle',
      severity: 'error',
      // A list of steps draws the lists inside it.
      from: { pathNot: '^src/ui/path/StepList[.]svelte$' },
      to: { circular: true }
    }
  ],
  options: {
    tsPreCompilationDeps: false,
    tsConfig: { fileName: 'tsconfig.json' },
    doNotFollow: { path: 'node_modules' }
  }
};
