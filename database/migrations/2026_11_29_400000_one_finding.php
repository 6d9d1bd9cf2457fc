<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Crypt;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;

/**
 * A finding says how severe it is, and which capability found it.
 */
return new class extends Migration
{
    private const SOURCES = ['guard' => 'access', 'tune' => 'storage', 'load' => 'statements'];

    public function up(): void
    {
        Schema::table('findings', static function (Blueprint $table): void {
            $table->string('severity', 8)->default('watch');
            $table->renameColumn('bench', 'source');
        });
        DB::table('findings')->where('act', true)->update(['severity' => 'act']);
        foreach (self::SOURCES as $old => $new) {
            DB::table('findings')->where('source', $old)->update(['source' => $new]);
        }
        Schema::table('findings', static fn (Blueprint $table) => $table->dropColumn('act'));
        foreach (DB::table('findings')->where('source', 'access')->orderBy('id')->select('id', 'evidence')->lazy(200) as $finding) {
            $evidence = str_replace('"would mend it"', '"would fix it"', Crypt::decryptString($finding->evidence));
            DB::table('findings')->where('id', $finding->id)->update(['evidence' => Crypt::encryptString($evidence)]);
        }
    }
};
