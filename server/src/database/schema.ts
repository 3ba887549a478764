/** The tables. Migrations in ../drizzle are made from this file by drizzle-kit. */
import { kinds } from '@zettak/api/kinds';
import { foreignKey, index, integer, primaryKey, sqliteTable, text, uniqueIndex } from 'drizzle-orm/sqlite-core';

/** Machines, programs and texts of the course: each has one draft, saved over and over, and versions that never change. */
export const documents = sqliteTable(
  'documents',
  {
    id: text().primaryKey(),
    kind: text({ enum: kinds }).notNull(),
    name: text().notNull(),
    machine: text(),
    /** Of data sets: the program that they are for. */
    program: text(),
    draft: text().notNull(),
    revision: integer().notNull(),
    createdAt: text('created_at').notNull(),
    updatedAt: text('updated_at').notNull(),
    /** When it was taken off the shelf; it can be brought back until it is deleted for good. */
    removedAt: text('removed_at'),
  },
  (table) => [
    foreignKey({ columns: [table.machine], foreignColumns: [table.id] }).onDelete('restrict'),
    foreignKey({ columns: [table.program], foreignColumns: [table.id] }).onDelete('restrict'),
    uniqueIndex('documents_by_program').on(table.kind, table.program),
    index('documents_by_kind').on(table.kind, table.name),
  ],
);

export const versions = sqliteTable(
  'versions',
  {
    document: text()
      .notNull()
      .references(() => documents.id, { onDelete: 'restrict' }),
    number: integer().notNull(),
    text: text().notNull(),
    /** For a program: the version of its machine that was the newest then. */
    machineVersion: integer('machine_version'),
    /** The language of machine documents that it was read in; versions from before languages had numbers were read in the first. */
    language: integer().notNull().default(1),
    createdAt: text('created_at').notNull(),
  },
  (table) => [primaryKey({ columns: [table.document, table.number] })],
);

/** What came of the sets of a program, as a page ran them: the newest of each state of program and machine. */
export const results = sqliteTable(
  'results',
  {
    program: text()
      .notNull()
      .references(() => documents.id, { onDelete: 'cascade' }),
    /** Of the texts of program and machine. */
    key: text().notNull(),
    rows: text().notNull(),
    createdAt: text('created_at').notNull(),
  },
  (table) => [primaryKey({ columns: [table.program, table.key] })],
);
