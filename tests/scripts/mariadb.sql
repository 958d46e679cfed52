CREATE TABLE `branches` (
  `id` int(11) NOT NULL AUTO_INCREMENT,
  `name` varchar(80) NOT NULL COMMENT 'As on the door',
  `town` varchar(60) CHARACTER SET latin1 DEFAULT 'Ferren',
  `tone` enum('bright','dull','it''s odd') NOT NULL DEFAULT 'dull',
  `flags` set('a','b') DEFAULT NULL,
  `rating` tinyint unsigned DEFAULT 3 CHECK (`rating` between 1 and 5),
  `area` decimal(8,2) NOT NULL DEFAULT 0.50,
  `body` mediumtext,
  `made` timestamp NOT NULL DEFAULT current_timestamp() ON UPDATE current_timestamp(),
  `seen` datetime DEFAULT NULL,
  `active` tinyint(1) NOT NULL DEFAULT 1,
  `year_` year DEFAULT NULL, `bits` bit(4) DEFAULT b'0',
  PRIMARY KEY (`id`), UNIQUE KEY `name` (`name`), KEY `town_part` (`town`(10)), FULLTEXT KEY `full` (`body`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COMMENT='A house';
/*!40101 SET @saved = @@character_set_client */;
CREATE TABLE players (id bigint unsigned not null auto_increment primary key, branch_id int not null, mentor_id bigint unsigned, full varchar(100) generated always as (concat(`email`, "-x")) stored, email varchar(100) character set ascii, constraint fk_branch foreign key (branch_id) references branches (id) on delete cascade on update cascade, foreign key (mentor_id) references players (id) on delete set null, unique key pair (email, branch_id), key branch_email (branch_id, email)) engine=InnoDB;
CREATE TABLE old (id int primary key, v varchar(10)) engine=MyISAM default charset=latin1;
create table seats (player_id bigint unsigned not null, branch_id int not null, chair int, primary key (player_id, branch_id), foreign key (player_id) references players (id) on delete cascade, foreign key (branch_id) references branches (id) on delete cascade);
create table logs (at datetime, what text);
create table parts (id int not null, y int not null, primary key (id, y)) partition by range (y) (partition p0 values less than (2000), partition p1 values less than maxvalue);
DELIMITER //
create trigger stamped before insert on players for each row begin set new.email = lower(new.email); end //
create function twice(x int) returns int deterministic return x * 2 //
DELIMITER ;
create view busy as select branch_id, count(*) c from players group by branch_id;
insert into branches (name) values ('a;b'), ('it''s -- not a comment');
