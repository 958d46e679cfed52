import { nameText } from '../../edits/index.js';
import { type Entity, entityOf } from '../../model/index.js';
import { byKey, comparedFields, isRow, isValue, orderedFields, type RoleSite, type Way } from './way.js';

/** The ways to rows over a role, in the direction of it. */
export const WAYS_OF_ROLES: readonly Way<RoleSite>[] = [
  {
    name: 'load',
    queries: (site) => [`${fromOwner(site)}\nload ${nameText(site.role.name)}`],
  },
  {
    name: 'load below a load',
    queries: (site) => {
      // Below a role to several entities stands what all of them have.
      const below = (site.branch ? [] : loadedBelow(target(site))).map((name) => `\n  ${nameText(name)}`);
      return below.length === 0 ? [] : [`${fromOwner(site)}\nload ${nameText(site.role.name)}${below.join('')}`];
    },
  },
  {
    name: 'quantifier',
    queries: (site) =>
      isMany(site)
        ? [
            `any(${path(site)})`,
            `none(${path(site)})`,
            ...asked(site).flatMap((condition) => [`any(${path(site)}[${condition}])`, `all(${path(site)}[not (${condition})])`]),
          ].map((condition) => `${fromOwner(site)} and ${condition}\nexists`)
        : [],
  },
  {
    name: 'count over a role',
    queries: (site) =>
      isMany(site)
        ? [
            `${fromOwner(site)}\nshow count(${path(site)}) as rows_behind`,
            `${fromOwner(site)} and count(${path(site)}) > 0\ncount`,
            `from ${nameText(site.role.entity)}\norder by count(${path(site)}) desc, ${byKey(entityOf(site.model, site.role.entity))}\nlimit 5`,
          ]
        : [],
  },
  {
    name: 'total over a role',
    queries: (site) => {
      if (!isMany(site)) return [];
      const totals = orderedFields(target(site)).map(({ name }, at) => `max(${path(site)}.${nameText(name)}) as most_${at}`);
      return totals.length === 0 ? [] : [`${fromOwner(site)}\nshow ${totals.join(', ')}`];
    },
  },
  {
    name: 'field over a role',
    queries: (site) => {
      if (isMany(site)) return [];
      const shown = comparedFields(target(site))
        .filter(({ hidden }) => !hidden)
        .map(({ name }, at) => `${path(site)}.${nameText(name)} as value_${at}`);
      return shown.length === 0 ? [] : [`${fromOwner(site)}\nshow ${shown.join(', ')}`];
    },
  },
  {
    name: 'filter over a role',
    queries: (site) =>
      isMany(site)
        ? []
        : comparedFields(target(site)).map(
            (field) =>
              `${fromOwner(site)} and ${path(site)}.${isValue(field, site.hidden.values.get(field.name) ?? null)}\nexists`,
          ),
  },
  {
    name: 'order over a role',
    queries: (site) => {
      const [field] = orderedFields(target(site)).filter(({ key }) => !key);
      if (isMany(site) || field === undefined) return [];
      const owner = entityOf(site.model, site.role.entity);
      return [`from ${nameText(owner.name)}\norder by ${path(site)}.${nameText(field.name)}, ${byKey(owner)}\nlimit 20`];
    },
  },
  {
    name: 'group over a role',
    queries: (site) => {
      const [field] = orderedFields(target(site)).filter(({ key }) => !key);
      if (isMany(site) || field === undefined) return [];
      const term = `${path(site)}.${nameText(field.name)}`;
      return [`${fromOwner(site)}\ngroup by ${term}\nshow ${term} as term, count(*) as rows_in_it`];
    },
  },
  {
    name: 'whether there is one',
    queries: (site) =>
      isMany(site) || site.branch
        ? []
        : [`${fromOwner(site)} and ${path(site)} is null\nexists`, `${fromOwner(site)} and ${path(site)} is not null\nexists`],
  },
];

function target({ model, role }: RoleSite): Entity {
  return entityOf(model, role.target);
}

function isMany({ role }: RoleSite): boolean {
  return role.knows === 'many';
}

/** The owner's row alone. */
function fromOwner({ model, role, owner }: RoleSite): string {
  return `from ${nameText(role.entity)}\nwhere ${isRow(model, owner)}`;
}

/** The role as a path goes over it; of one to several entities the branch that is meant. */
function path({ role, branch }: RoleSite): string {
  return branch ? `(${nameText(role.name)} as ${nameText(role.target)})` : nameText(role.name);
}

/** What can be asked of the row that is out of reach, so that it alone is meant. */
function asked(site: RoleSite): readonly string[] {
  const { model, hidden } = site;
  const rows = isRow(model, hidden);
  const [field] = orderedFields(target(site)).filter(({ key }) => !key);
  return field === undefined ? [rows] : [rows, isValue(field, hidden.values.get(field.name) ?? null)];
}

/** The roles of loaded rows that are loaded below them: as many as one query may well have. */
function loadedBelow({ roles, polymorphic }: Entity): readonly string[] {
  return [...roles, ...polymorphic].map(({ name }) => name).slice(0, MOST_BELOW);
}

const MOST_BELOW = 4;
