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
    /** Of the 1,024 bytes a server keeps of a digest, without blanks and marks. */
    private const KEPT = 500;

    /** What the schemas end with in which copies lie that something is tried on. */
    public const COPIES = '_rehearsal';

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
     * Whether it is worth asking: most is sent in no database; plans are asked for in that of their statement, after what is set for
     * it, and copies of tables are read there.
     */
    public static function mayBe(Fingerprint $statement, string $database): bool
    {
        return $database === '' || preg_match('~^(EXPLAIN|ANALYZE|SET)\b|'.self::COPIES.'\b~i', $statement->text) === 1;
    }

    /**
     * Which of some statements are our own; only those that may be.
     *
     * @param  array<string, Fingerprint>  $statements by fingerprint
     * @return array<string, true> by fingerprint
     */
    public static function among(array $statements): array
    {
        $signatures = array_map(self::signature(...), $statements);
        $asked = array_values(array_unique(array_diff($signatures, array_keys(self::$noted))));
        // All at once: a reading has hundreds of statements.
        $kept = $asked === [] ? [] : Cache::many(array_map(static fn (string $one): string => "watching:{$one}", $asked));
        $own = array_filter(
            $signatures,
            static fn (string $one): bool => isset(self::$noted[$one]) || ($kept["watching:{$one}"] ?? false) === true,
        );

        return array_fill_keys(array_keys($own), true);
    }

    /** In its digests the server writes some words, spaces and signs in its own way. */
    private static function signature(Fingerprint $statement): string
    {
        $plain = str_replace(['SYSTEM_USER', '!='], ['USER', '<>'], strtoupper((string) preg_replace('~[\s`"]+~', '', $statement->text)));

        // Of a long one the server keeps the beginning.
        return hash('xxh128', substr($plain, 0, self::KEPT));
    }
}
