<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics\Wire;

/**
 * What the name, the unit and the labels of a series may be at most.
 */
final class SeriesLimits
{
    private const NAME = 120;

    private const UNIT = 40;

    private const LABELS = 30;

    private const LABEL_BYTES = 1_000;

    /**
     * @param  array<string, string>  $labels
     * @return string|null what is too much; null where nothing is
     */
    public static function refusal(string $name, string $unit, array $labels): ?string
    {
        return match (true) {
            $name === '' => 'a metric has a name',
            mb_strlen($name) > self::NAME => 'a name has '.self::NAME.' characters at most',
            mb_strlen($unit) > self::UNIT => 'a unit has '.self::UNIT.' characters at most',
            count($labels) > self::LABELS => 'a series has '.self::LABELS.' labels at most',
            $labels !== [] && strlen((string) json_encode($labels, JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES
                | JSON_INVALID_UTF8_SUBSTITUTE)) > self::LABEL_BYTES => 'the labels of a series take '.self::LABEL_BYTES.' bytes at most',
            default => null,
        };
    }
}
