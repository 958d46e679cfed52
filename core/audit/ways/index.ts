export { WAYS_OF_ROLES } from './of-roles.js';
export { WAYS_OF_ROWS } from './of-rows.js';
export { isRow, keyRoles, namedRow, type RoleSite, type RowSite, type Way, type Witness } from './way.js';
