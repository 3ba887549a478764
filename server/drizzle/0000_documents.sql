CREATE TABLE `documents` (
	`id` text PRIMARY KEY NOT NULL,
	`kind` text NOT NULL,
	`name` text NOT NULL,
	`machine` text,
	`draft` text NOT NULL,
	`revision` integer NOT NULL,
	`created_at` text NOT NULL,
	`updated_at` text NOT NULL,
	FOREIGN KEY (`machine`) REFERENCES `documents`(`id`) ON UPDATE no action ON DELETE restrict
);
--> statement-breakpoint
CREATE INDEX `documents_by_kind` ON `documents` (`kind`,`name`);--> statement-breakpoint
CREATE TABLE `versions` (
	`document` text NOT NULL,
	`number` integer NOT NULL,
	`text` text NOT NULL,
	`machine_version` integer,
	`created_at` text NOT NULL,
	PRIMARY KEY(`document`, `number`),
	FOREIGN KEY (`document`) REFERENCES `documents`(`id`) ON UPDATE no action ON DELETE restrict
);
