<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::create('guard_versions', static function (Blueprint $table): void {
            // The number is the key: of two who publish at once, one is told.
            $table->unsignedInteger('number')->primary();
            $table->unsignedBigInteger('made_us');
            $table->string('made_by', 200);
            $table->text('comment');
            $table->longText('document');
            $table->unsignedInteger('restored')->nullable();
            $table->unsignedInteger('change_id')->nullable();
        });
        Schema::create('guard_draft', static function (Blueprint $table): void {
            $table->string('kind', 20);
            $table->string('name', 190)->collation('utf8mb4_bin');
            $table->primary(['kind', 'name']);
            // NULL where the item is to go.
            $table->longText('fields')->nullable();
            $table->unsignedInteger('revision');
            $table->string('edited_by', 200);
            $table->unsignedBigInteger('edited_us');
        });
        Schema::create('guard_decisions', static function (Blueprint $table): void {
            $table->bigIncrements('id');
            $table->unsignedBigInteger('at_us')->index();
            $table->unsignedSmallInteger('cluster_id')->index();
            $table->string('subject', 190)->index();
            $table->string('asked_by', 200);
            $table->string('source', 20);
            $table->unsignedInteger('version');
            $table->boolean('draft')->default(false);
            $table->string('outcome', 24)->index();
            $table->char('fingerprint', 32)->charset('ascii')->collation('ascii_bin')->index();
            // Text without literals; what was run may hold some and is sealed.
            $table->text('statement');
            $table->text('sealed_rewritten')->nullable();
            $table->text('tables');
            $table->mediumText('sealed_reasons');
        });
        Schema::create('guard_requests', static function (Blueprint $table): void {
            $table->increments('id');
            $table->unsignedBigInteger('asked_us');
            $table->unsignedBigInteger('asker_id')->nullable();
            $table->string('asked_by', 200);
            $table->string('subject', 190);
            $table->string('object', 300);
            $table->text('reason');
            $table->date('until')->nullable();
            $table->string('state', 10)->index();
            $table->string('decided_by', 200)->nullable();
            $table->unsignedBigInteger('decided_us')->nullable();
            $table->text('answer')->nullable();
        });
        Schema::create('guard_campaigns', static function (Blueprint $table): void {
            $table->increments('id');
            $table->string('title', 200);
            $table->date('due');
            $table->string('made_by', 200);
            $table->unsignedBigInteger('made_us');
            $table->unsignedBigInteger('ended_us')->nullable();
        });
        Schema::create('guard_campaign_items', static function (Blueprint $table): void {
            $table->increments('id');
            $table->unsignedInteger('campaign_id')->index();
            $table->string('kind', 20);
            $table->string('name', 190);
            $table->text('described');
            $table->string('state', 10);
            $table->string('decided_by', 200)->nullable();
            $table->unsignedBigInteger('decided_us')->nullable();
            $table->text('note')->nullable();
        });
        Schema::table('proofs', static function (Blueprint $table): void {
            // Proofs of access compare decisions and not times.
            $table->string('body', 10)->default('time');
        });
    }

    public function down(): void
    {
        foreach (
            ['guard_versions', 'guard_draft', 'guard_decisions', 'guard_requests', 'guard_campaigns', 'guard_campaign_items'] as $table
        ) {
            Schema::drop($table);
        }
        Schema::table('proofs', static fn (Blueprint $table) => $table->dropColumn('body'));
    }
};
