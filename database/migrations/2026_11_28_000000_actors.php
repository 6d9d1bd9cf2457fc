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
        Schema::table('users', static function (Blueprint $table): void {
            $table->string('policy_person', 190)->nullable()->unique();
        });
        Schema::table('guard_decisions', static function (Blueprint $table): void {
            $table->mediumText('sealed_error')->nullable();
        });
        // Accounts were matched by the part of their address before the @. People keep that; service accounts do not.
        $document = json_decode((string) DB::table('guard_versions')->orderByDesc('number')->value('document'), true);
        foreach (is_array($document['people'] ?? null) ? $document['people'] : [] as $name => $person) {
            if (($person['kind'] ?? 'person') === 'person') {
                $like = addcslashes((string) $name, '%_\\').'@%';
                $account = DB::table('users')
                    ->where('email', (string) $name)
                    ->orWhere('email', 'like', $like)
                    ->orderBy('id')
                    ->first(['id']);
                if ($account !== null) {
                    DB::table('users')
                        ->where('id', $account->id)
                        ->whereNull('policy_person')
                        ->update(['policy_person' => (string) $name]);
                }
            }
        }
    }

    public function down(): void
    {
        Schema::table('users', static fn (Blueprint $table) => $table->dropColumn('policy_person'));
        Schema::table('guard_decisions', static fn (Blueprint $table) => $table->dropColumn('sealed_error'));
    }
};
