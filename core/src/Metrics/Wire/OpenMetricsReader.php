<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics\Wire;

use Fulcrion\Core\Metrics\Metric;

/**
 * Reads the text of OpenMetrics 1.0, and the plain text it grew from, which has no end mark. Lines that cannot be read are told of, all
 * others are taken. Info and state sets are told as gauges; when a counter was created is not kept.
 */
final class OpenMetricsReader
{
    private const NAME = '[a-zA-Z_:][a-zA-Z0-9_:]*';

    private const LABEL = '([a-zA-Z_][a-zA-Z0-9_]*)="((?:[^"\\\\\n]|\\\\.)*)"';

    private const COMPLAINTS = 20;

    /** Endings of samples that only grow, by the type of their family; an empty one is the bare name. */
    private const COUNTERS = [
        'counter' => ['_total', ''],
        'histogram' => ['_bucket', '_count', '_sum'],
        'summary' => ['_count', '_sum'],
    ];

    /** @var array<string, string> type by family */
    private array $types = [];

    /** @var array<string, string> unit by family */
    private array $units = [];

    /** @var list<Received> */
    private array $values = [];

    /** @var list<string> */
    private array $complaints = [];

    private int $refused = 0;

    private function __construct(private readonly string $host, private readonly int $nowMs)
    {
    }

    /**
     * @param  string  $host all of it is of
     * @param  int  $nowMs of what has no moment of its own
     * @param  bool  $mustEnd whether a text without its end mark was cut off
     */
    public static function read(string $text, string $host, int $nowMs, bool $mustEnd = false): Reception
    {
        $reader = new self($host, $nowMs);
        $hasEnded = false;
        foreach (explode("\n", $text) as $i => $line) {
            $line = rtrim($line, "\r");
            if ($line === '') {
                continue;
            }
            if ($hasEnded) {
                $reader->complain($i, 'something comes after the end mark # EOF');
                break;
            }
            if ($line === '# EOF') {
                $hasEnded = true;
            } elseif ($line[0] === '#') {
                $reader->about($line);
            } else {
                $reader->sample($line, $i);
            }
        }
        if ($mustEnd && ! $hasEnded) {
            return new Reception([], ['The text was cut off: its end mark # EOF is missing. Nothing of it was taken.'],
                count($reader->values) + $reader->refused);
        }

        return new Reception($reader->values, $reader->complaints, $reader->refused);
    }

    private function about(string $line): void
    {
        if (preg_match('~^# (TYPE|UNIT) ('.self::NAME.') (\S+)$~', $line, $m) === 1) {
            if ($m[1] === 'TYPE') {
                $this->types[$m[2]] = strtolower($m[3]);
            } else {
                $this->units[$m[2]] = $m[3];
            }
        }
    }

    private function sample(string $line, int $number): void
    {
        $pattern = '~^('.self::NAME.')(?:\{((?:\s*+'.self::LABEL.'\s*+,?)*+)\s*+\})?[ \t]+(\S+)(?:[ \t]+(-?[\d.]+(?:[eE][+-]?\d+)?))?'
            .'(?:[ \t]+# .*)?[ \t]*$~D';
        if (preg_match($pattern, $line, $m) !== 1) {
            $this->complain($number, 'this is no sample: '.mb_strcut($line, 0, 60));

            return;
        }
        [$name, $inner, $text] = [$m[1], $m[2], $m[5]];
        $value = self::number($text);
        if ($value === null) {
            $this->complain($number, "\"{$text}\" is no number");

            return;
        }
        if (str_ends_with($name, '_created') && isset($this->types[substr($name, 0, -8)])) {
            return;
        }
        if (! is_finite($value)) {
            // What is not known, or without a bound, is no point of a series.
            $this->refused++;

            return;
        }
        $labels = [];
        preg_match_all('~'.self::LABEL.'~', $inner, $pairs, PREG_SET_ORDER);
        foreach ($pairs as [, $label, $quoted]) {
            if (isset($labels[$label])) {
                $this->complain($number, "the label {$label} stands there twice");

                return;
            }
            $labels[$label] = strtr($quoted, ['\\\\' => '\\', '\\"' => '"', '\\n' => "\n"]);
        }
        [$family, $isCounter] = $this->family($name);
        $unit = $this->units[$family] ?? '';
        $refusal = SeriesLimits::refusal($name, $unit, $labels);
        if ($refusal !== null) {
            $this->complain($number, $refusal);

            return;
        }
        $this->values[] = new Received($this->host, $this->moment($m[6] ?? ''), new Metric($name, $unit, $value, $labels, $isCounter));
    }

    /**
     * @return array{string, bool} the family a sample is of, and whether it only grows
     */
    private function family(string $name): array
    {
        foreach (self::COUNTERS as $type => $endings) {
            foreach ($endings as $ending) {
                $family = str_ends_with($name, $ending) ? substr($name, 0, strlen($name) - strlen($ending)) : '';
                if (($this->types[$family] ?? '') === $type) {
                    return [$family, true];
                }
            }
        }

        return [$name, false];
    }

    /** Seconds in the standard, milliseconds in the text it grew from; the moment it is read where it has none. */
    private function moment(string $text): int
    {
        if ($text === '' || ! is_numeric($text)) {
            return $this->nowMs;
        }
        $number = (float) $text;

        return (int) round($number >= 1e11 ? $number : $number * 1_000);
    }

    private static function number(string $text): ?float
    {
        return match (strtolower(ltrim($text, '+'))) {
            'nan' => NAN,
            'inf' => INF,
            '-inf' => -INF,
            default => is_numeric($text) ? (float) $text : null,
        };
    }

    private function complain(int $line, string $what): void
    {
        $this->refused++;
        if (count($this->complaints) < self::COMPLAINTS) {
            $this->complaints[] = 'line '.($line + 1).": {$what}";
        }
    }
}
