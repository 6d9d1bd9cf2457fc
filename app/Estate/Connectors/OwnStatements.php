<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Fingerprint;
use Fulcrion\Core\Sql\Fingerprinter;
use Illuminate\Support\Facades\Cache;

/**
 * What is asked of live servers only to watch them: it is no load of theirs, and is counted apart.
 */
final class OwnStatements
{
    /** @var array<string, true> noted by this process, by signature */
    private static array $noted = [];

    public static function note(string $sql): void
    {
        $id = self::signature((new Fingerprinter(Dialect::MariaDb))->of($sql));
        if (! isset(self::$noted[$id])) {
            self::$noted[$id] = true;
            // One entry each: processes that note at once do not undo each other.
            Cache::forever("watching:{$id}", true);
        }
    }

    /**
     * @param  string  $database the statement was sent in; watching is done in none
     */
    public static function has(Fingerprint $statement, string $database): bool
    {
        if ($database !== '') {
            return false;
        }
        $id = self::signature($statement);

        return isset(self::$noted[$id]) || Cache::has("watching:{$id}");
    }

    /** In its digests the server writes some words, spaces and signs in its own way. */
    private static function signature(Fingerprint $statement): string
    {
        $plain = str_replace(['SYSTEM_USER', '!='], ['USER', '<>'], strtoupper((string) preg_replace('~[\s`"]+~', '', $statement->text)));

        return hash('xxh128', $plain);
    }
}
