<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost\Bill;

use Brick\Math\BigDecimal;
use Brick\Math\Exception\MathException;
use DateTimeImmutable;
use DateTimeZone;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Parquet\ParquetReader;

/**
 * Reads a bill in the FinOps Open Cost and Usage Specification, FOCUS 1.0, as CSV or Parquet. Columns of later versions are passed over.
 */
final class FocusReader
{
    public const MOST_LINES = 200_000;

    /** Without these nothing can be matched. */
    public const NEEDED = ['BilledCost', 'BillingCurrency', 'ChargeCategory', 'ChargePeriodStart', 'ChargePeriodEnd', 'ResourceId'];

    /** Read where they are there. */
    public const MORE = ['BillingAccountId', 'PricingQuantity', 'PricingUnit', 'ChargeDescription'];

    /**
     * @return non-empty-list<BillLine>
     *
     * @throws BillError
     */
    public static function csv(string $text): array
    {
        $text = str_starts_with($text, "\xEF\xBB\xBF") ? substr($text, 3) : $text;
        if (! mb_check_encoding($text, 'UTF-8')) {
            throw new BillError('The file is not UTF-8 text. Save it as CSV in UTF-8, or send the Parquet file.');
        }
        $file = fopen('php://temp', 'r+');
        if ($file === false) {
            throw new BillError('The file cannot be held in memory.');
        }
        fwrite($file, $text);
        rewind($file);
        $head = fgetcsv($file, null, ',', '"', '');
        $places = self::places(array_map(static fn (?string $name): string => trim((string) $name), $head === false ? [] : $head));
        $lines = [];
        $number = 1;
        while (($cells = fgetcsv($file, null, ',', '"', '')) !== false) {
            $number++;
            if ($cells === [null]) {
                continue;
            }
            if (count($lines) >= self::MOST_LINES) {
                throw new BillError('A bill has '.self::MOST_LINES.' lines at most. Split it by billing period.');
            }
            $values = [];
            foreach ($places as $name => $place) {
                $values[$name] = trim($cells[$place] ?? '');
            }
            $lines[] = self::line($values, $number);
        }
        fclose($file);

        return self::whole($lines);
    }

    /**
     * @return non-empty-list<BillLine>
     *
     * @throws BillError
     */
    public static function parquet(ParquetReader $reader): array
    {
        try {
            if ($reader->rowCount > self::MOST_LINES) {
                throw new BillError('A bill has '.self::MOST_LINES.' lines at most. Split it by billing period.');
            }
            $columns = [];
            foreach (self::places(array_map(static fn ($column): string => $column->name, $reader->columns)) as $name => $place) {
                $columns[$name] = $reader->readAll($name);
            }
        } catch (ParquetError $error) {
            throw new BillError("The Parquet file cannot be read: {$error->getMessage()}", 0, $error);
        }
        $lines = [];
        for ($i = 0; $i < $reader->rowCount; $i++) {
            $values = array_map(static fn (array $column): string => self::text($column[$i] ?? null), $columns);
            $lines[] = self::line($values, $i + 1);
        }

        return self::whole($lines);
    }

    /**
     * @param  list<string>  $head
     * @return array<string, int> column => place
     *
     * @throws BillError
     */
    private static function places(array $head): array
    {
        $missing = array_values(array_diff(self::NEEDED, $head));
        if ($missing !== []) {
            throw new BillError('Line 1: the column '.implode(', ', $missing).' is missing. A bill in FOCUS 1.0 has '
                .implode(', ', self::NEEDED).'.');
        }
        $places = array_flip($head);

        return array_intersect_key($places, array_flip([...self::NEEDED, ...self::MORE]));
    }

    /**
     * @param  array<string, string>  $values
     *
     * @throws BillError
     */
    private static function line(array $values, int $number): BillLine
    {
        $category = ChargeCategory::tryFrom($values['ChargeCategory'])
            ?? throw self::error($number, 'ChargeCategory', 'is none of '.implode(
                ', ',
                array_map(static fn (ChargeCategory $one): string => $one->value, ChargeCategory::cases()),
            ));
        if (preg_match('~^[A-Z]{3}$~D', $values['BillingCurrency']) !== 1) {
            throw self::error($number, 'BillingCurrency', 'is not a code of three letters, as EUR');
        }
        $from = self::moment($values['ChargePeriodStart'], $number, 'ChargePeriodStart');
        $to = self::moment($values['ChargePeriodEnd'], $number, 'ChargePeriodEnd');
        if ($to <= $from) {
            throw self::error($number, 'ChargePeriodEnd', 'is not after ChargePeriodStart');
        }
        $quantity = $values['PricingQuantity'] ?? '';

        return new BillLine(
            mb_strcut($values['BillingAccountId'] ?? '', 0, 200),
            mb_strcut($values['ResourceId'], 0, 200),
            $category,
            self::kind($category, $values['PricingUnit'] ?? '', $values['ChargeDescription'] ?? ''),
            $from,
            $to,
            self::decimal($values['BilledCost'], $number, 'BilledCost'),
            $values['BillingCurrency'],
            $quantity === '' ? null : self::decimal($quantity, $number, 'PricingQuantity'),
            mb_strcut($values['ChargeDescription'] ?? '', 0, 200),
        );
    }

    /**
     * Units as the specification writes them: plural nouns, rates joined by a dash. What is alike in unit is distinguished by its words.
     */
    private static function kind(ChargeCategory $category, string $unit, string $description): ?PriceKind
    {
        if ($category === ChargeCategory::Adjustment) {
            return PriceKind::Discount;
        }
        if (in_array($category, [ChargeCategory::Credit, ChargeCategory::Tax], true)) {
            return null;
        }

        return match (strtolower($unit)) {
            'hour', 'hours' => stripos($description, 'burst') !== false ? PriceKind::BurstHour : PriceKind::NodeHour,
            'worker-hour', 'worker-hours' => PriceKind::WorkerHour,
            'tib', 'tb' => PriceKind::ScannedTebibyte,
            'month', 'months' => PriceKind::MonthlyFee,
            'gib-months', 'gb-months', 'gib-month', 'gb-month' => stripos($description, 'backup') !== false ? PriceKind::BackupMonth
                : PriceKind::StorageMonth,
            'gib', 'gb' => PriceKind::NetworkOut,
            default => null,
        };
    }

    /**
     * @throws BillError
     */
    private static function moment(string $text, int $number, string $column): int
    {
        if (preg_match('~^\d{4}-\d{2}-\d{2}([T ]\d{2}:\d{2}(:\d{2}(\.\d+)?)?(Z|[+-]\d{2}:\d{2})?)?$~D', $text) === 1) {
            $moment = date_create_immutable($text, new DateTimeZone('UTC'));
            // A day that is none, as 30 February, would become another.
            if ($moment instanceof DateTimeImmutable && checkdate((int) substr($text, 5, 2), (int) substr($text, 8, 2), (int) $text)) {
                return $moment->getTimestamp();
            }
        }
        throw self::error($number, $column, 'is not a moment, as 2026-11-01T00:00:00Z');
    }

    /**
     * @throws BillError
     */
    private static function decimal(string $text, int $number, string $column): BigDecimal
    {
        try {
            if (preg_match('~^-?\d{1,15}(\.\d{1,30})?([eE][+-]?\d{1,2})?$~D', $text) === 1) {
                // What is kept has twelve decimals; a bill with more is not read as if it had fewer.
                $amount = BigDecimal::of($text)->stripTrailingZeros();
                if ($amount->getScale() <= 12 && $amount->abs()->isLessThan('1e15')) {
                    return $amount;
                }
                throw self::error($number, $column, 'has more than 12 decimals, or more than 15 digits before them');
            }
        } catch (MathException) {
            // Said below.
        }
        throw self::error($number, $column, 'is not a number with a point, as 12.5');
    }

    private static function text(int|float|string|bool|null $value): string
    {
        return is_float($value) ? rtrim(rtrim(sprintf('%.10F', $value), '0'), '.') : trim((string) $value);
    }

    private static function error(int $number, string $column, string $what): BillError
    {
        return new BillError("Line {$number}: {$column} {$what}.");
    }

    /**
     * @param  list<BillLine>  $lines
     * @return non-empty-list<BillLine>
     *
     * @throws BillError
     */
    private static function whole(array $lines): array
    {
        if ($lines === []) {
            throw new BillError('The bill has no lines.');
        }
        $currencies = array_values(array_unique(array_map(static fn (BillLine $line): string => $line->currency, $lines)));
        if (count($currencies) > 1) {
            throw new BillError('The bill is in '.implode(' and ', $currencies).'. Send one file for each currency.');
        }

        return $lines;
    }
}
