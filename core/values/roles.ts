/* What people are to the application: what an account may do, and what formulas ask of who is signed in (`me.roles`). */

export const ROLES = ['designer', 'clerk', 'reviewer', 'administrator'] as const;
export type Role = (typeof ROLES)[number];
/** Who may build: designers and administrators. Everybody signed in may enter records. */
export const DESIGN_ROLES: readonly Role[] = ['designer', 'administrator'];
export const mayBuild = (roles: readonly Role[]): boolean => roles.some((r) => DESIGN_ROLES.includes(r));

/** What programs can be: they work with records, and build nothing. */
export const MAY_FOR_PROGRAMS: readonly Role[] = ['clerk', 'reviewer'];
