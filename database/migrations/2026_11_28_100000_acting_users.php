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
        Schema::table('changes', static function (Blueprint $table): void {
            $table->foreignId('acting_id')->nullable()->constrained('users')->nullOnDelete();
            $table->foreignId('asked_by_id')->nullable()->constrained('users')->nullOnDelete();
        });
        Schema::table('tuning_runs', static function (Blueprint $table): void {
            $table->foreignId('asked_by_id')->nullable()->constrained('users')->nullOnDelete();
        });
        // Runs that wait know their person by name only; where two bear it, nobody can tell which.
        foreach (
            DB::table('tuning_runs')
                ->whereIn('state', ['planned', 'waiting'])
                ->get(['id', 'asked_by']) as $run
        ) {
            $users = DB::table('users')->where('name', $run->asked_by)->limit(2)->pluck('id');
            DB::table('tuning_runs')
                ->where('id', $run->id)
                ->update(['asked_by_id' => count($users) === 1 ? $users[0] : null]);
        }
    }

    public function down(): void
    {
        Schema::table('changes', static function (Blueprint $table): void {
            $table->dropConstrainedForeignId('acting_id');
            $table->dropConstrainedForeignId('asked_by_id');
        });
        Schema::table('tuning_runs', static fn (Blueprint $table) => $table->dropConstrainedForeignId('asked_by_id'));
    }
};
