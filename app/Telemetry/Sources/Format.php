<?php

declare(strict_types=1);

namespace App\Telemetry\Sources;

enum Format: string
{
    case JsonLines = 'jsonl';
    case Csv = 'csv';
    case SlowLog = 'slow_log';

    public function describe(): string
    {
        return match ($this) {
            self::JsonLines => 'JSON Lines',
            self::Csv => 'CSV',
            self::SlowLog => 'slow query log',
        };
    }

    /** Told by the first lines. */
    public static function detect(LineFile $file): self
    {
        while (($line = $file->next()) !== null) {
            $start = ltrim($line);
            if ($start === '') {
                continue;
            }

            return match (true) {
                $start[0] === '{' || $start[0] === '[' => self::JsonLines,
                $start[0] === '#' || preg_match('~(mysqld|mariadbd)\S*, Version:~', $start) === 1 => self::SlowLog,
                default => self::Csv,
            };
        }

        return self::JsonLines;
    }
}
