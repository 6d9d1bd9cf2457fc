<?php

declare(strict_types=1);

namespace App\Platform\Support;

/**
 * What a table can be taken away as.
 */
enum ExportFormat: string
{
    case Csv = 'csv';
    case Json = 'json';
    case Xlsx = 'xlsx';

    public function contentType(): string
    {
        return match ($this) {
            self::Csv => 'text/csv; charset=utf-8',
            self::Json => 'application/json',
            self::Xlsx => 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
        };
    }

    /**
     * @return list<string>
     */
    public static function words(): array
    {
        return array_column(self::cases(), 'value');
    }
}
