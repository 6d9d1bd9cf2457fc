<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // What its minutes were like, where an hour has many more points than minutes.
        DB::statement('ALTER TABLE metric_blocks ADD minutes BLOB NULL');
        // A day of a series: what it was, and its hours.
        DB::statement('CREATE TABLE metric_days (
            series_id INT UNSIGNED NOT NULL,
            day_at INT UNSIGNED NOT NULL,
            low DOUBLE NOT NULL,
            high DOUBLE NOT NULL,
            sum DOUBLE NOT NULL,
            last DOUBLE NOT NULL,
            points INT UNSIGNED NOT NULL,
            hours BLOB NOT NULL,
            PRIMARY KEY (series_id, day_at),
            FOREIGN KEY (series_id) REFERENCES metric_series (id) ON DELETE CASCADE
        ) ENGINE = InnoDB');
        // Points are packed otherwise now, and readings of a host are all there was: they begin anew.
        DB::table('metric_blocks')->delete();
    }

    public function down(): void
    {
        Schema::drop('metric_days');
        DB::statement('ALTER TABLE metric_blocks DROP minutes');
    }
};
