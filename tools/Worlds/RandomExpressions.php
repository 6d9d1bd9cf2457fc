<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Worlds;

use Random\Randomizer;

/**
 * Random expressions over a table of awkward values: right ones, wrong ones, and ones at the limits.
 */
final readonly class RandomExpressions
{
    /** column => type and values; every list is as long as the others */
    public const TABLE = [
        'i' => ['bigint', ['0', '1', '(-1)', '7', '(-9223372036854775808)', '9223372036854775807', 'NULL', '86400000000']],
        'd' => ['double', ['0.0', '(-0.0)', '1.5', '(-2.25)', '1e308', '(-1e308)', 'NULL', '1e-300']],
        'm' => ['decimal(18, 2)', ['0', '(-0.01)', '1.05', '9999999999999999.99', '(-9999999999999999.99)', '12.5', 'NULL', '3']],
        't' => ['text', ["''", "' a '", "'äÖ%_\\'", "'12'", "'x1e5'", "'2026-02-28'", 'NULL', "'abcabc'"]],
        'b' => ['boolean', ['true', 'false', 'true', 'false', 'NULL', 'true', 'false', 'true']],
        'y' => [
            'date',
            [
                "DATE '2026-02-28'",
                "DATE '2024-02-29'",
                "DATE '0001-01-01'",
                "DATE '9999-12-31'",
                'NULL',
                "DATE '1969-12-31'",
                "DATE '2000-01-01'",
                "DATE '2026-11-28'",
            ],
        ],
        's' => [
            'timestamp',
            [
                "TIMESTAMP '2026-02-28 23:59:59.999999'",
                "TIMESTAMP '0001-01-01 00:00:00'",
                "TIMESTAMP '9999-12-31 23:59:59'",
                'NULL',
                "TIMESTAMP '1969-12-31 23:59:59'",
                "TIMESTAMP '2000-01-01 12:00:00'",
                "TIMESTAMP '2026-11-28 06:00:00.5'",
                "TIMESTAMP '1970-01-01 00:00:00'",
            ],
        ],
    ];

    private const FUNCTIONS = [
        'i' => [
            'char_length(t)',
            'length(t)',
            'sign(n)',
            'floor(n)',
            'ceil(n)',
            'position(t, t)',
            'locate(t, t)',
            'instr(t, t)',
            'year(y)',
            'month(s)',
            'day(y)',
            'hour(s)',
            'week(y)',
            'doy(s)',
            'quarter(y)',
            'datediff(y, y)',
            'i DIV i',
            'n DIV n',
            'i % i',
            'abs(i)',
            '-i',
            'i + i',
            'i - i',
            'i * i',
            'CAST(n AS bigint)',
            'CAST(t AS bigint)',
            'CAST(b AS bigint)',
            'EXTRACT(EPOCH FROM s)',
            'round(i, i)',
            'mod(i, i)',
            'round(m)',
            'y - y',
        ],
        'd' => [
            'sqrt(n)',
            'power(n, n)',
            'exp(n)',
            'ln(n)',
            'd + n',
            'n - d',
            'd * n',
            'd / n',
            'n / d',
            'd % n',
            'round(d, i)',
            'round(d)',
            'ceil(d)',
            'floor(d)',
            'abs(d)',
            '-d',
            'CAST(n AS double)',
            'CAST(t AS double)',
        ],
        'm' => [
            'm + i',
            'i - m',
            'm * i',
            'm / i',
            'i / i',
            'm % m',
            'round(m, i)',
            'round(m, 1)',
            'abs(m)',
            '-m',
            'CAST(n AS decimal(18, 2))',
            'CAST(n AS decimal(4, 2))',
            'CAST(t AS decimal(9, 3))',
            'floor(m)',
            'mod(m, i)',
        ],
        't' => [
            'upper(t)',
            'lower(t)',
            'reverse(t)',
            'left(t, i)',
            'right(t, i)',
            'substring(t, i)',
            'substring(t, i, i)',
            'trim(t)',
            'trim(t, t)',
            'ltrim(t, t)',
            'rtrim(t)',
            'replace(t, t, t)',
            'concat(t, i, t)',
            'concat_ws(t, t, t)',
            't || t',
            'lpad(t, i, t)',
            'rpad(t, i)',
            'CAST(n AS text)',
            'CAST(y AS text)',
            'CAST(s AS text)',
            'CAST(b AS text)',
        ],
        'b' => [
            'n = n',
            'n < n',
            'n >= n',
            'n <> n',
            'n <=> n',
            't = t',
            't < t',
            't LIKE t',
            "t LIKE 'a%b_' ESCAPE '%'",
            "t LIKE t ESCAPE '_'",
            't ILIKE t',
            'b AND b',
            'b OR b',
            'NOT b',
            'n IS NULL',
            't IS NOT NULL',
            'b IS TRUE',
            'n BETWEEN n AND n',
            'n IN (n, n, NULL)',
            'n NOT IN (n, n)',
            't IN (t, t)',
            'y < y',
            's >= y',
            'n IS DISTINCT FROM n',
            'starts_with(t, t)',
            'CAST(n AS boolean)',
            'CAST(t AS boolean)',
            'd IN (0.0, d)',
        ],
        'y' => [
            "date_trunc('month', y)",
            "date_trunc('week', y)",
            "date_trunc('year', y)",
            'y + INTERVAL i DAY',
            'y - INTERVAL i MONTH',
            'y + INTERVAL i YEAR',
            'y + INTERVAL i WEEK',
            'CAST(s AS date)',
            'CAST(t AS date)',
            'date(s)',
        ],
        's' => [
            "date_trunc('hour', s)",
            "date_trunc('quarter', s)",
            's + INTERVAL i HOUR',
            's - INTERVAL i MICROSECOND',
            's + INTERVAL i MONTH',
            's - INTERVAL i DAY',
            'CAST(y AS timestamp)',
            'CAST(t AS timestamp)',
            'y + INTERVAL i MINUTE',
        ],
    ];

    private const LITERALS = [
        'i' => ['0', '1', '(-1)', '2', '19', '(-3)', '9223372036854775807', '(-9223372036854775808)', '1000000007', 'NULL'],
        'd' => ['0.0e0', '(-0.0e0)', '1e0', '(-2.5e0)', '1e308', '(-1e308)', '3e-310', '1e18', 'NULL'],
        'm' => ['0.0', '(-0.5)', '1.25', '99.995', '(-7.77)', '999999999999999.999', 'NULL'],
        't' => ["''", "'a'", "'%'", "'_a%'", "'äß'", "'0'", "'(-12.5)'", "'2026-01-31'", "'a\\'", "'it''s'", 'NULL'],
        'b' => ['true', 'false', 'NULL'],
        'y' => ["DATE '2026-01-31'", "DATE '0001-01-01'", "DATE '9999-12-31'", 'NULL'],
        's' => [
            "TIMESTAMP '2026-01-31 10:20:30.123456'",
            "TIMESTAMP '9999-12-31 23:59:59.999999'",
            "TIMESTAMP '0001-01-01 00:00:00'",
            'NULL',
        ],
    ];

    public function __construct(private Randomizer $random)
    {
    }

    /** An expression whose columns stand in braces, so that values can be put in their place. */
    public function next(int $depth = 4, string $type = ''): string
    {
        $type = $type === '' ? $this->one(array_keys(self::TABLE)) : ($type === 'n' ? $this->one(['i', 'd', 'm']) : $type);
        // Now and then something of another type, which has to be refused and not run.
        $type = $this->random->getInt(1, 60) === 1 ? $this->one(array_keys(self::TABLE)) : $type;
        $way = $this->random->getInt(1, 10);
        if ($depth === 0 || $way <= 1) {
            return $this->random->getInt(0, 2) > 0 ? "{{$type}}" : $this->one(self::LITERALS[$type]);
        }
        if ($way === 2) {
            $call = $this->one([
                'CASE WHEN b THEN x ELSE x END',
                'CASE WHEN b THEN x END',
                'coalesce(x, x)',
                'nullif(x, x)',
                'greatest(x, x)',
                'least(x, x)',
                'if(b, x, x)',
                'CASE x WHEN x THEN x WHEN x THEN x END',
            ]);
        } else {
            $call = $this->one(self::FUNCTIONS[$type]);
        }

        return '('.
            preg_replace_callback(
                '~(?<![\w\'])([idmtbysnx])(?![\w\'])~',
                fn (array $m): string => $this->next($depth - 1, $m[1] === 'x' ? $type : $m[1]),
                $call,
            ).
            ')';
    }

    /**
     * @param  list<string>  $list
     */
    private function one(array $list): string
    {
        return $list[$this->random->getInt(0, count($list) - 1)];
    }
}
