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

/** What a teacher keeps together. */
export const courses = sqliteTable('courses', {
  id: text().primaryKey(),
  name: text().notNull(),
  createdAt: text('created_at').notNull(),
});

/** One problem, with copies of every text that decides what comes of a hand-in: nothing that happens to those elsewhere changes it. */
export const assignments = sqliteTable(
  'assignments',
  {
    id: text().primaryKey(),
    course: text()
      .notNull()
      .references(() => courses.id, { onDelete: 'cascade' }),
    name: text().notNull(),
    problem: text().notNull(),
    machine: text().notNull(),
    machineName: text('machine_name').notNull(),
    machineVersion: integer('machine_version').notNull(),
    program: text().references(() => documents.id, { onDelete: 'set null' }),
    /** AssignmentTexts as JSON. */
    texts: text().notNull(),
    /** Of the texts. */
    key: text().notNull(),
    marks: text().notNull(),
    /** LessonBench as JSON; null where students get none. */
    bench: text(),
    opensAt: text('opens_at'),
    closesAt: text('closes_at'),
    revision: integer().notNull(),
    createdAt: text('created_at').notNull(),
    /** Of the token in the students' link, hashed; null until there is one. */
    tokenHash: text('token_hash'),
  },
  (table) => [index('assignments_by_course').on(table.course), uniqueIndex('assignments_by_token').on(table.tokenHash)],
);

/** What came in; never changed. Its texts are in a table of their own, so that lists of hand-ins read short rows alone. */
export const handIns = sqliteTable(
  'hand_ins',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    assignment: text()
      .notNull()
      .references(() => assignments.id, { onDelete: 'cascade' }),
    label: text().notNull(),
    /** SHA-256 of the source. */
    hash: text().notNull(),
    /** The sum that the bundle carries. */
    bundleHash: text('bundle_hash'),
    /** BundleClaims as JSON: what the bundle says of its own runs, read once when it came. */
    claims: text(),
    /** Which hand-in of its label and origin it is, from 1. */
    number: integer().notNull().default(1),
    /** Characters of its texts. */
    size: integer().notNull().default(0),
    file: text().notNull(),
    arrivedAt: text('arrived_at').notNull(),
    /** Of the token of the student who handed it in through the link, hashed. */
    studentHash: text('student_hash'),
  },
  (table) => [
    index('hand_ins_by_label').on(table.assignment, table.label),
    index('hand_ins_by_student').on(table.assignment, table.studentHash),
  ],
);

export const handInTexts = sqliteTable('hand_in_texts', {
  handIn: integer('hand_in')
    .primaryKey()
    .references(() => handIns.id, { onDelete: 'cascade' }),
  source: text().notNull(),
  /** As it came, where it came as a bundle. */
  bundle: text(),
});

/** Of a label that was handed in from several places: the origin that counts, as the teacher has decided. */
export const labelChoices = sqliteTable(
  'label_choices',
  {
    assignment: text()
      .notNull()
      .references(() => assignments.id, { onDelete: 'cascade' }),
    label: text().notNull(),
    /** A student's token, hashed; '' where the teacher brought it. */
    origin: text().notNull(),
  },
  (table) => [primaryKey({ columns: [table.assignment, table.label] })],
);

/** One check of one hand-in against one state of its assignment: a job, and its verdict once it is done. */
export const checks = sqliteTable(
  'checks',
  {
    handIn: integer('hand_in')
      .notNull()
      .references(() => handIns.id, { onDelete: 'cascade' }),
    key: text().notNull(),
    state: text({ enum: ['waiting', 'running', 'done', 'failed', 'called off'] }).notNull(),
    tries: integer().notNull().default(0),
    /** Verdicts of all come before the reasons of any. */
    stage: text({ enum: ['verdicts', 'reasons'] })
      .notNull()
      .default('verdicts'),
    /** Why it failed. */
    sentence: text().notNull().default(''),
    /** CheckedHandIn as JSON. */
    result: text(),
  },
  (table) => [primaryKey({ columns: [table.handIn, table.key] }), index('checks_by_state').on(table.state, table.stage)],
);

/** What a teacher says to all with one mistake, or to one label. */
export const remarks = sqliteTable(
  'remarks',
  {
    assignment: text()
      .notNull()
      .references(() => assignments.id, { onDelete: 'cascade' }),
    of: text({ enum: ['group', 'label'] }).notNull(),
    about: text().notNull(),
    text: text().notNull(),
  },
  (table) => [primaryKey({ columns: [table.assignment, table.of, table.about] })],
);

/** What a student is at, before it is handed in. */
export const works = sqliteTable(
  'works',
  {
    assignment: text()
      .notNull()
      .references(() => assignments.id, { onDelete: 'cascade' }),
    /** Of the student's token. */
    studentHash: text('student_hash').notNull(),
    content: text().notNull(),
    updatedAt: text('updated_at').notNull(),
  },
  (table) => [primaryKey({ columns: [table.assignment, table.studentHash] })],
);

/** Sessions of the teacher, by the hash of their token. */
export const sessions = sqliteTable('sessions', {
  tokenHash: text('token_hash').primaryKey(),
  expiresAt: text('expires_at').notNull(),
});

/** What the server keeps for itself: the key of receipts, the hashed passphrase. */
export const settings = sqliteTable('settings', { name: text().primaryKey(), value: text().notNull() });
