CREATE TABLE `assignments` (
	`id` text PRIMARY KEY NOT NULL,
	`course` text NOT NULL,
	`name` text NOT NULL,
	`problem` text NOT NULL,
	`machine` text NOT NULL,
	`machine_name` text NOT NULL,
	`machine_version` integer NOT NULL,
	`program` text,
	`texts` text NOT NULL,
	`key` text NOT NULL,
	`marks` text NOT NULL,
	`opens_at` text,
	`closes_at` text,
	`revision` integer NOT NULL,
	`created_at` text NOT NULL,
	`token_hash` text,
	FOREIGN KEY (`course`) REFERENCES `courses`(`id`) ON UPDATE no action ON DELETE cascade,
	FOREIGN KEY (`program`) REFERENCES `documents`(`id`) ON UPDATE no action ON DELETE set null
);
--> statement-breakpoint
CREATE INDEX `assignments_by_course` ON `assignments` (`course`);--> statement-breakpoint
CREATE UNIQUE INDEX `assignments_by_token` ON `assignments` (`token_hash`);--> statement-breakpoint
CREATE TABLE `checks` (
	`hand_in` integer NOT NULL,
	`key` text NOT NULL,
	`state` text NOT NULL,
	`tries` integer DEFAULT 0 NOT NULL,
	`stage` text DEFAULT 'verdicts' NOT NULL,
	`sentence` text DEFAULT '' NOT NULL,
	`result` text,
	PRIMARY KEY(`hand_in`, `key`),
	FOREIGN KEY (`hand_in`) REFERENCES `hand_ins`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `checks_by_state` ON `checks` (`state`,`stage`);--> statement-breakpoint
CREATE TABLE `courses` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`created_at` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `hand_ins` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`assignment` text NOT NULL,
	`label` text NOT NULL,
	`source` text NOT NULL,
	`bundle` text,
	`hash` text NOT NULL,
	`file` text NOT NULL,
	`arrived_at` text NOT NULL,
	`student_hash` text,
	FOREIGN KEY (`assignment`) REFERENCES `assignments`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE INDEX `hand_ins_by_label` ON `hand_ins` (`assignment`,`label`);--> statement-breakpoint
CREATE TABLE `remarks` (
	`assignment` text NOT NULL,
	`of` text NOT NULL,
	`about` text NOT NULL,
	`text` text NOT NULL,
	PRIMARY KEY(`assignment`, `of`, `about`),
	FOREIGN KEY (`assignment`) REFERENCES `assignments`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `sessions` (
	`token_hash` text PRIMARY KEY NOT NULL,
	`expires_at` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `settings` (
	`name` text PRIMARY KEY NOT NULL,
	`value` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `works` (
	`assignment` text NOT NULL,
	`student_hash` text NOT NULL,
	`content` text NOT NULL,
	`updated_at` text NOT NULL,
	PRIMARY KEY(`assignment`, `student_hash`),
	FOREIGN KEY (`assignment`) REFERENCES `assignments`(`id`) ON UPDATE no action ON DELETE cascade
);
