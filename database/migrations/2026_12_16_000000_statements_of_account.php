<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        // What a message brings along, and who else may read it here; when it is tried again.
        Schema::table('notifications', static function (Blueprint $table): void {
            $table->string('ability', 40)->nullable();
            $table->unsignedBigInteger('retry_us')->nullable();
        });
        Schema::create('notification_files', static function (Blueprint $table): void {
            $table->increments('id');
            $table->unsignedBigInteger('notification_id')->index();
            $table->string('name', 190);
            $table->string('type', 80);
        });
        DB::statement('ALTER TABLE notification_files ADD content LONGBLOB NOT NULL');
        // Who gets the statement of account of which team; nothing goes out before somebody saw what would.
        Schema::create('account_schedules', static function (Blueprint $table): void {
            $table->increments('id');
            $table->string('team', 120);
            $table->string('recipient', 190);
            $table->unsignedTinyInteger('day');
            $table->string('made_by', 120);
            $table->unsignedBigInteger('made_us');
            $table->string('confirmed_by', 120)->nullable();
            $table->unsignedBigInteger('confirmed_us')->nullable();
            $table->unique(['team', 'recipient']);
        });
        // What was sent, as it was.
        Schema::create('accounts', static function (Blueprint $table): void {
            $table->increments('id');
            $table->string('team', 120);
            $table->char('month', 7);
            $table->string('recipient', 190);
            $table->string('sentence', 300);
            $table->string('made_by', 120);
            $table->unsignedBigInteger('made_us');
            $table->unsignedBigInteger('notification_id')->nullable();
            $table->char('digest', 64);
            $table->index(['team', 'month']);
        });
        DB::statement('ALTER TABLE accounts ADD html LONGBLOB NOT NULL, ADD pdf LONGBLOB NOT NULL');
    }

    public function down(): void
    {
        Schema::drop('accounts');
        Schema::drop('account_schedules');
        Schema::drop('notification_files');
        Schema::table('notifications', static function (Blueprint $table): void {
            $table->dropColumn(['ability', 'retry_us']);
        });
    }
};
