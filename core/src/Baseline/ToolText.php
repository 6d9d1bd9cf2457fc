<?php

declare(strict_types=1);

namespace Fulcrion\Core\Baseline;

/**
 * Reads what the tools say: fio and iperf3 as JSON, sysbench, which has none, as its report.
 */
final class ToolText
{
    private const FIO = ['fio-read' => BaselineResource::DiskRead, 'fio-write' => BaselineResource::DiskWrite,
        'fio-random' => BaselineResource::DiskRandom];

    private const MOST = 1e15;

    /**
     * @param  array<string, string>  $outputs by step: fio-read, fio-write, fio-random, sysbench-cpu, sysbench-memory, iperf3
     * @return array<value-of<BaselineResource>, float> what could be read, by resource
     */
    public static function read(array $outputs): array
    {
        $values = [];
        foreach (self::FIO as $step => $resource) {
            $values[$resource->value] = isset($outputs[$step]) ? self::fio($outputs[$step], $resource) : null;
        }
        $values[BaselineResource::Processors->value] = self::number('~events per second:\s+([\d.]+)~', $outputs['sysbench-cpu'] ?? '');
        $memory = self::number('~transferred \(([\d.]+) MiB/sec\)~', $outputs['sysbench-memory'] ?? '');
        $values[BaselineResource::Memory->value] = $memory === null ? null : $memory * 1_048_576;
        $bits = self::at($outputs['iperf3'] ?? '', 'end', 'sum_received', 'bits_per_second');
        $values[BaselineResource::Network->value] = $bits === null ? null : $bits / 8;

        return array_filter($values, static fn (?float $value): bool => $value !== null && $value > 0.0 && $value < self::MOST);
    }

    private static function fio(string $text, BaselineResource $resource): ?float
    {
        $error = self::at($text, 'jobs', 0, 'error');

        return $error === null || $error !== 0.0 ? null : match ($resource) {
            BaselineResource::DiskWrite => self::at($text, 'jobs', 0, 'write', 'bw_bytes'),
            BaselineResource::DiskRandom => self::at($text, 'jobs', 0, 'read', 'iops'),
            default => self::at($text, 'jobs', 0, 'read', 'bw_bytes'),
        };
    }

    private static function at(string $text, string|int ...$path): ?float
    {
        // A tool may say something before its JSON.
        $start = strpos($text, '{');
        $value = $start === false ? null : json_decode(substr($text, $start), true, 32);
        foreach ($path as $key) {
            $value = is_array($value) ? $value[$key] ?? null : null;
        }

        return is_int($value) || is_float($value) ? (float) $value : null;
    }

    private static function number(string $pattern, string $text): ?float
    {
        return preg_match($pattern, $text, $match) === 1 ? (float) $match[1] : null;
    }
}
