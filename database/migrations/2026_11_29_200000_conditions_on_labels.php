<?php

declare(strict_types=1);

use Fulcrion\Core\Access\Policy\FormerConditions;
use Illuminate\Database\Migrations\Migration;
use Illuminate\Support\Facades\DB;

/**
 * Policies that were published, and what is being edited, ask for labels as it is written today.
 */
return new class extends Migration
{
    public function up(): void
    {
        foreach (DB::table('policy_versions')->orderBy('number')->lazyById(20, 'number') as $version) {
            $document = json_decode($version->document, true);
            if (! is_array($document) || ! isset($document['rules'])) {
                continue;
            }
            $document['rules'] = array_map(self::rule(...), $document['rules']);
            DB::table('policy_versions')
                ->where('number', $version->number)
                ->update([
                    'document' => json_encode($document, JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR),
                ]);
        }
        foreach (DB::table('policy_drafts')->where('kind', 'rules')->whereNotNull('fields')->get() as $item) {
            DB::table('policy_drafts')
                ->where('kind', 'rules')
                ->where('name', $item->name)
                ->update([
                    'fields' => json_encode(
                        self::rule((array) json_decode($item->fields, true)),
                        JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR,
                    ),
                ]);
        }
    }

    /**
     * @param  array<string, mixed>  $fields
     * @return array<string, mixed>
     */
    private static function rule(array $fields): array
    {
        return is_string($fields['when'] ?? null)
            ? array_replace($fields, ['when' => FormerConditions::rewritten($fields['when'])])
            : $fields;
    }
};
