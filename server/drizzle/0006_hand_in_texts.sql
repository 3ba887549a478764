CREATE TABLE `hand_in_texts` (
	`hand_in` integer PRIMARY KEY NOT NULL,
	`source` text NOT NULL,
	`bundle` text,
	FOREIGN KEY (`hand_in`) REFERENCES `hand_ins`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
CREATE TABLE `label_choices` (
	`assignment` text NOT NULL,
	`label` text NOT NULL,
	`origin` text NOT NULL,
	PRIMARY KEY(`assignment`, `label`),
	FOREIGN KEY (`assignment`) REFERENCES `assignments`(`id`) ON UPDATE no action ON DELETE cascade
);
--> statement-breakpoint
ALTER TABLE `hand_ins` ADD `bundle_hash` text;--> statement-breakpoint
ALTER TABLE `hand_ins` ADD `claims` text;--> statement-breakpoint
ALTER TABLE `hand_ins` ADD `number` integer DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE `hand_ins` ADD `size` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
CREATE INDEX `hand_ins_by_student` ON `hand_ins` (`assignment`,`student_hash`);--> statement-breakpoint
INSERT INTO `hand_in_texts` (`hand_in`, `source`, `bundle`) SELECT `id`, `source`, `bundle` FROM `hand_ins`;--> statement-breakpoint
UPDATE `hand_ins` SET
	`size` = length(`source`) + coalesce(length(`bundle`), 0),
	`number` = (
		SELECT count(*) FROM `hand_ins` AS `earlier`
		WHERE `earlier`.`assignment` = `hand_ins`.`assignment` AND `earlier`.`label` = `hand_ins`.`label`
			AND coalesce(`earlier`.`student_hash`, '') = coalesce(`hand_ins`.`student_hash`, '') AND `earlier`.`id` <= `hand_ins`.`id`
	);
