import type { PluginItem } from '@babel/core';
import type { PluginOptions } from 'babel-plugin-react-compiler';

/** What the compiler cannot do yet, or leaves to a comment: such a component stays as it is written. */
const LEFT_AS_WRITTEN: string[] = ['Todo', 'Invariant', 'Suppression'];

/** All that it can look at of the rules of React as it compiles. */
const RULES = {
  validateHooksUsage: true,
  validateRefAccessDuringRender: true,
  validateNoSetStateInRender: true,
  validateNoSetStateInEffects: true,
  validateNoDerivedComputationsInEffects: true,
  validateNoJSXInTryStatements: true,
  validateNoImpureFunctionsInRender: true,
  validateStaticComponents: true,
  validateNoFreezingKnownMutableFunctions: true,
  validateNoVoidUseMemo: true,
  validateNoCapitalizedCalls: [],
};

const options: PluginOptions = {
  environment: RULES,
  logger: {
    logEvent(file, event) {
      if (event.kind !== 'CompileError' || LEFT_AS_WRITTEN.includes(event.detail.category)) return;
      const at = event.detail.primaryLocation();
      throw new Error(`${file}${typeof at === 'object' && at !== null ? `:${at.start.line}` : ''}: ${event.detail.toString()}`);
    },
  },
};

/** Makes screens quicker, and stops the build where one breaks a rule of React. */
export const compiler: PluginItem = ['babel-plugin-react-compiler', options];
