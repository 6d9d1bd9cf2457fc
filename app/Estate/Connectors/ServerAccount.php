<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

/**
 * An account of a server, and the limits the server holds it to.
 */
final readonly class ServerAccount
{
    /**
     * @param  string  $quoted name and host as statements say them
     * @param  float|null  $statementSeconds a statement may take; null for any time
     * @param  int|null  $queriesPerHour null for any number
     */
    public function __construct(
        public string $name,
        public string $host,
        public string $quoted,
        public ?float $statementSeconds,
        public ?int $queriesPerHour,
    ) {
    }

    /** The statement that holds it to other limits. */
    public function altered(?float $statementSeconds, ?int $queriesPerHour): string
    {
        return "ALTER USER {$this->quoted} WITH MAX_STATEMENT_TIME ".self::seconds($statementSeconds ?? 0.0).
            ' MAX_QUERIES_PER_HOUR '.($queriesPerHour ?? 0);
    }

    public static function seconds(float $seconds): string
    {
        return rtrim(rtrim(sprintf('%.3F', $seconds), '0'), '.');
    }
}
