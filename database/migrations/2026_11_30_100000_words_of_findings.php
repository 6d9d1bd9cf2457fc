<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Crypt;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/**
 * Findings are dismissed until a date, and maintenance statements that wait name their action.
 */
return new class extends Migration
{
    public function up(): void
    {
        Schema::table('findings', static fn (Blueprint $table) => $table->renameColumn('waived_until_us', 'dismissed_until_us'));
        DB::table('findings')
            ->where('state', 'waived')
            ->update(['state' => 'dismissed']);
        $this->say('WITH (act = ', 'WITH (action = ');
    }

    public function down(): void
    {
        Schema::table('findings', static fn (Blueprint $table) => $table->renameColumn('dismissed_until_us', 'waived_until_us'));
        DB::table('findings')
            ->where('state', 'dismissed')
            ->update(['state' => 'waived']);
        $this->say('WITH (action = ', 'WITH (act = ');
    }

    private function say(string $from, string $to): void
    {
        foreach (['changes' => ['sealed_steps', 'sealed_inverse'], 'findings' => ['sealed_statements']] as $table => $columns) {
            foreach ($columns as $column) {
                foreach (DB::table($table)->whereNotNull($column)->orderBy('id')->select('id', $column)->lazy(200) as $row) {
                    $kept = Crypt::decryptString($row->{$column});
                    if (str_contains($kept, $from)) {
                        DB::table($table)
                            ->where('id', $row->id)
                            ->update([$column => Crypt::encryptString(str_replace($from, $to, $kept))]);
                    }
                }
            }
        }
    }
};
