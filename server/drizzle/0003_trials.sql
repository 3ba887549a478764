CREATE TABLE `results` (
	`program` text NOT NULL,
	`key` text NOT NULL,
	`rows` text NOT NULL,
	`created_at` text NOT NULL,
	PRIMARY KEY(`program`, `key`),
	FOREIGN KEY (`program`) REFERENCES `documents`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
ALTER TABLE `documents` ADD `program` text REFERENCES documents(id);--> statement-breakpoint
CREATE UNIQUE INDEX `documents_by_program` ON `documents` (`kind`,`program`);