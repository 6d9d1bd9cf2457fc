<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    private const TABLES = ['incident_acts', 'alert_rings', 'incidents', 'incident_marks', 'alert_silences', 'deploys', 'alerts'];

    public function up(): void
    {
        DB::statement('CREATE TABLE alerts (
            id INT UNSIGNED NOT NULL AUTO_INCREMENT,
            cluster_id SMALLINT UNSIGNED NOT NULL,
            name VARCHAR(120) NOT NULL,
            `signal` VARCHAR(200) NOT NULL,
            host VARCHAR(120) NULL,
            watched VARCHAR(12) NOT NULL,
            side VARCHAR(8) NOT NULL,
            threshold DOUBLE NOT NULL,
            calm DOUBLE NOT NULL,
            for_seconds INT UNSIGNED NOT NULL,
            calm_seconds INT UNSIGNED NOT NULL,
            share DOUBLE NULL,
            is_urgent BOOLEAN NOT NULL,
            second_minutes SMALLINT UNSIGNED NULL,
            second_user_id BIGINT UNSIGNED NULL,
            is_on BOOLEAN NOT NULL,
            made_by VARCHAR(120) NOT NULL,
            judged_to INT UNSIGNED NULL,
            states MEDIUMTEXT NULL,
            error VARCHAR(500) NULL,
            PRIMARY KEY (id),
            KEY of_cluster (cluster_id),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
        DB::statement('CREATE TABLE incidents (
            id INT UNSIGNED NOT NULL AUTO_INCREMENT,
            cluster_id SMALLINT UNSIGNED NOT NULL,
            title VARCHAR(300) NOT NULL,
            opened_at INT UNSIGNED NOT NULL,
            last_at INT UNSIGNED NOT NULL,
            quiet_since INT UNSIGNED NULL,
            ended_at INT UNSIGNED NULL,
            told INT UNSIGNED NOT NULL,
            told_at INT UNSIGNED NOT NULL,
            is_urgent BOOLEAN NOT NULL,
            taken_by VARCHAR(120) NULL,
            taken_at INT UNSIGNED NULL,
            holder_id BIGINT UNSIGNED NULL,
            second_at INT UNSIGNED NULL,
            second_told_at INT UNSIGNED NULL,
            second_user_id BIGINT UNSIGNED NULL,
            was_real BOOLEAN NULL,
            PRIMARY KEY (id),
            KEY open_ones (cluster_id, ended_at),
            KEY by_time (cluster_id, opened_at),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
        DB::statement('CREATE TABLE alert_rings (
            id INT UNSIGNED NOT NULL AUTO_INCREMENT,
            alert_id INT UNSIGNED NULL,
            cluster_id SMALLINT UNSIGNED NOT NULL,
            incident_id INT UNSIGNED NULL,
            alert_name VARCHAR(120) NOT NULL,
            host VARCHAR(120) NOT NULL,
            from_at INT UNSIGNED NOT NULL,
            rang_at INT UNSIGNED NOT NULL,
            to_at INT UNSIGNED NULL,
            worst DOUBLE NOT NULL,
            said VARCHAR(300) NOT NULL,
            is_silenced BOOLEAN NOT NULL DEFAULT FALSE,
            PRIMARY KEY (id),
            UNIQUE KEY one (alert_id, host, from_at),
            KEY of_incident (incident_id),
            KEY open_ones (cluster_id, to_at),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE,
            FOREIGN KEY (alert_id) REFERENCES alerts (id) ON DELETE SET NULL,
            FOREIGN KEY (incident_id) REFERENCES incidents (id) ON DELETE SET NULL
        ) ENGINE = InnoDB');
        DB::statement('CREATE TABLE incident_acts (
            id INT UNSIGNED NOT NULL AUTO_INCREMENT,
            incident_id INT UNSIGNED NOT NULL,
            at INT UNSIGNED NOT NULL,
            who VARCHAR(120) NOT NULL,
            kind VARCHAR(20) NOT NULL,
            said TEXT NOT NULL,
            PRIMARY KEY (id),
            KEY of_incident (incident_id, at),
            FOREIGN KEY (incident_id) REFERENCES incidents (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
        // Times people say something was wrong in: thresholds are tried on them.
        DB::statement('CREATE TABLE incident_marks (
            id INT UNSIGNED NOT NULL AUTO_INCREMENT,
            cluster_id SMALLINT UNSIGNED NOT NULL,
            from_at INT UNSIGNED NOT NULL,
            to_at INT UNSIGNED NOT NULL,
            name VARCHAR(120) NOT NULL,
            made_by VARCHAR(120) NOT NULL,
            PRIMARY KEY (id),
            KEY by_time (cluster_id, from_at),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
        DB::statement('CREATE TABLE alert_silences (
            id INT UNSIGNED NOT NULL AUTO_INCREMENT,
            uid VARCHAR(190) NOT NULL,
            cluster_id SMALLINT UNSIGNED NULL,
            alert_id INT UNSIGNED NULL,
            host VARCHAR(120) NULL,
            from_at INT UNSIGNED NOT NULL,
            to_at INT UNSIGNED NULL,
            event TEXT NOT NULL,
            reason VARCHAR(300) NOT NULL,
            made_by VARCHAR(120) NOT NULL,
            PRIMARY KEY (id),
            UNIQUE KEY one (uid),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE,
            FOREIGN KEY (alert_id) REFERENCES alerts (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
        DB::statement('CREATE TABLE deploys (
            id INT UNSIGNED NOT NULL AUTO_INCREMENT,
            cluster_id SMALLINT UNSIGNED NOT NULL,
            at INT UNSIGNED NOT NULL,
            name VARCHAR(200) NOT NULL,
            link VARCHAR(500) NULL,
            PRIMARY KEY (id),
            UNIQUE KEY one (cluster_id, at, name),
            FOREIGN KEY (cluster_id) REFERENCES clusters (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
        DB::statement('ALTER TABLE subscriptions ADD hears VARCHAR(12) NOT NULL DEFAULT "findings", ADD secret TEXT NULL');
    }

    public function down(): void
    {
        foreach (self::TABLES as $table) {
            Schema::drop($table);
        }
        DB::statement('ALTER TABLE subscriptions DROP hears, DROP secret');
    }
};
