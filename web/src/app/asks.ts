/** What a screen asks the server for first, by its path in the routes: named in the head of the page that the server sends, so that
    the answers are under way while the code is read. Only what is asked with exactly this address is worth naming. */
export const ASKS: Record<string, string[]> = {
  '': ['/api/health', '/api/today', '/api/trays'],
  formulas: ['/api/health', '/api/formulas?search=&deleted=false&order=changed&limit=60&offset=0'],
  'formulas/:formulaId': [
    '/api/health',
    '/api/formulas/:formulaId',
    '/api/formulas/:formulaId/report?weight_unit=g',
    '/api/oils',
    '/api/materials',
    '/api/formulas/:formulaId/versions',
  ],
  'batches/:batchId/make': ['/api/batches/:batchId/run', '/api/batches/:batchId/progress'],
};
