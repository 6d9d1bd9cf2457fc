<?php

declare(strict_types=1);

use Fulcrion\Core\Statements\LoadAggregate;
use Fulcrion\Core\Statements\WindowCover;
use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('clusters', static function (Blueprint $table): void {
            $table->smallIncrements('id');
            $table->string('slug', 60)->unique();
            $table->string('name', 120);
            $table->string('role', 60)->default('production');
            $table->string('connector', 20);
            $table->string('dialect', 20);
            $table->boolean('is_own')->default(false);
            $table->string('host', 190)->nullable();
            $table->unsignedSmallInteger('port')->nullable();
            $table->text('username')->nullable();
            $table->text('secret')->nullable();
            $table->boolean('tls')->default(false);
            $table->unsignedSmallInteger('interval_seconds')->default(30);
            $table->unsignedSmallInteger('retention_days')->default(90);
            $table->unsignedSmallInteger('sample_days')->default(35);
            $table->boolean('paused')->default(false);
            $table->timestamp('polled_at')->nullable();
            $table->timestamp('failing_since')->nullable();
            $table->text('last_error')->nullable();
            $table->json('last_poll')->nullable();
            $table->timestamps();
        });
        Schema::create('statements', static function (Blueprint $table): void {
            $table->increments('id');
            $table->char('fingerprint', 32)->charset('ascii')->collation('ascii_bin')->unique();
            $table->string('kind', 12);
            $table->mediumText('text');
        });
        Schema::create('origins', static function (Blueprint $table): void {
            $table->increments('id');
            $table->char('digest', 16)->charset('ascii')->collation('ascii_bin')->unique();
            $table->string('database_name', 190)->index();
            $table->string('user_name', 190)->index();
            $table->string('application', 190)->index();
            $table->string('client_host', 190);
        });
        Schema::create('sightings', static function (Blueprint $table): void {
            $table->unsignedSmallInteger('cluster_id');
            $table->unsignedInteger('statement_id');
            $table->unsignedBigInteger('first_us');
            $table->unsignedBigInteger('last_us');
            $table->unsignedInteger('facts');
            $table->primary(['cluster_id', 'statement_id']);
            $table->index(['statement_id']);
            $table->index(['cluster_id', 'first_us']);
        });

        $sums = implode(",\n", array_map(static fn (string $name): string => "{$name} BIGINT UNSIGNED NOT NULL", LoadAggregate::SUMS));
        foreach (array_keys(WindowCover::LEVELS) as $level) {
            // Partitions by day make retention a matter of dropping one; the days are added as data arrives.
            // Rankings over long windows read nothing but this.
            $narrow = ! in_array($level, ['hour', 'day'], true)
                ? ''
                : ', KEY narrow (cluster_id, bucket_at, statement_id, executions, load_us)';
            $partitions = in_array($level, ['six_hour', 'day', 'week'], true)
                ? ''
                : 'PARTITION BY RANGE (bucket_at) (PARTITION rest VALUES LESS THAN MAXVALUE)';
            DB::statement("CREATE TABLE load_{$level} (
                cluster_id SMALLINT UNSIGNED NOT NULL,
                bucket_at INT UNSIGNED NOT NULL,
                statement_id INT UNSIGNED NOT NULL,
                origin_id INT UNSIGNED NOT NULL,
                {$sums},
                min_us BIGINT UNSIGNED NOT NULL,
                max_us BIGINT UNSIGNED NOT NULL,
                sketch MEDIUMBLOB NOT NULL,
                PRIMARY KEY (cluster_id, bucket_at, statement_id, origin_id),
                KEY by_statement (cluster_id, statement_id, bucket_at){$narrow}
            ) ENGINE=InnoDB {$partitions}");
        }
        // The same load without statements: the rail and every split over long windows read these few rows.
        foreach (['five_minute', 'hour'] as $level) {
            DB::statement("CREATE TABLE flow_{$level} (
                cluster_id SMALLINT UNSIGNED NOT NULL,
                bucket_at INT UNSIGNED NOT NULL,
                origin_id INT UNSIGNED NOT NULL,
                kind VARCHAR(12) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
                executions BIGINT UNSIGNED NOT NULL,
                duration_us BIGINT UNSIGNED NOT NULL,
                load_us BIGINT UNSIGNED NOT NULL,
                lock_us BIGINT UNSIGNED NOT NULL,
                queued_us BIGINT UNSIGNED NOT NULL,
                cpu_us BIGINT UNSIGNED NOT NULL,
                bytes_scanned BIGINT UNSIGNED NOT NULL,
                PRIMARY KEY (cluster_id, bucket_at, origin_id, kind)
            ) ENGINE=InnoDB PARTITION BY RANGE (bucket_at) (PARTITION rest VALUES LESS THAN MAXVALUE)");
        }
        DB::statement('CREATE TABLE taken (
            cluster_id SMALLINT UNSIGNED NOT NULL,
            bucket_at INT UNSIGNED NOT NULL,
            identities LONGBLOB NOT NULL,
            PRIMARY KEY (cluster_id, bucket_at)
        ) ENGINE=InnoDB PARTITION BY RANGE (bucket_at) (PARTITION rest VALUES LESS THAN MAXVALUE)');
        DB::statement('CREATE TABLE samples (
            cluster_id SMALLINT UNSIGNED NOT NULL,
            statement_id INT UNSIGNED NOT NULL,
            hour_at INT UNSIGNED NOT NULL,
            slowest_us BIGINT UNSIGNED NOT NULL,
            kept TINYINT UNSIGNED NOT NULL,
            sealed MEDIUMBLOB NOT NULL,
            PRIMARY KEY (cluster_id, statement_id, hour_at)
        ) ENGINE=InnoDB');
        DB::statement('CREATE TABLE messages (
            cluster_id SMALLINT UNSIGNED NOT NULL,
            statement_id INT UNSIGNED NOT NULL,
            bucket_at INT UNSIGNED NOT NULL,
            severity VARCHAR(10) NOT NULL,
            digest CHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
            text VARCHAR(500) NOT NULL,
            occurrences INT UNSIGNED NOT NULL,
            PRIMARY KEY (cluster_id, statement_id, bucket_at, severity, digest)
        ) ENGINE=InnoDB');

        Schema::create('digest_readings', static function (Blueprint $table): void {
            $table->unsignedSmallInteger('cluster_id');
            $table->char('digest', 16)->charset('ascii')->collation('ascii_bin');
            $table->json('counters');
            $table->string('born', 40);
            $table->primary(['cluster_id', 'digest']);
        });
        Schema::create('imports', static function (Blueprint $table): void {
            $table->ulid('id')->primary();
            $table->unsignedSmallInteger('cluster_id')->index();
            $table->unsignedBigInteger('user_id')->nullable();
            $table->string('file_name', 255);
            $table->string('path', 1000)->nullable();
            $table->string('format', 20);
            $table->json('columns')->nullable();
            $table->string('state', 20)->index();
            $table->unsignedBigInteger('bytes_total')->default(0);
            $table->unsignedBigInteger('bytes_read')->default(0);
            $table->unsignedBigInteger('taken')->default(0);
            $table->unsignedBigInteger('set_aside')->default(0);
            $table->unsignedBigInteger('repeated')->default(0);
            $table->boolean('stop_asked')->default(false);
            $table->text('error')->nullable();
            $table->unsignedBigInteger('first_us')->nullable();
            $table->unsignedBigInteger('last_us')->nullable();
            $table->timestamp('started_at', 6)->nullable();
            $table->timestamp('beat_at', 6)->nullable();
            $table->timestamp('ended_at', 6)->nullable();
            $table->timestamp('created_at', 6);
        });
        Schema::create('set_aside', static function (Blueprint $table): void {
            $table->char('import_id', 26);
            $table->unsignedBigInteger('line');
            $table->string('field', 60);
            $table->string('reason', 255);
            $table->longText('sealed');
            $table->primary(['import_id', 'line']);
        });
        Schema::create('column_maps', static function (Blueprint $table): void {
            $table->unsignedSmallInteger('cluster_id');
            $table->char('header_digest', 16)->charset('ascii')->collation('ascii_bin');
            $table->json('columns');
            $table->primary(['cluster_id', 'header_digest']);
        });
    }
};
