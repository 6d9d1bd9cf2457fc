<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics\Wire;

use Fulcrion\Core\Metrics\Metric;

/**
 * Reads metrics as JSON of the OpenTelemetry protocol (OTLP 1.x, ExportMetricsServiceRequest in the JSON mapping of its messages). Gauges
 * and sums are taken as they are; of histograms and summaries their count and sum, and the count up to each bound.
 */
final class OtlpReader
{
    private const DELTA = 1;

    private const COMPLAINTS = 20;

    /** Of a resource: what else tells series of one host apart. */
    private const OF_RESOURCE = ['service.name', 'service.instance.id'];

    /** @var list<Received> */
    private array $values = [];

    /** @var list<string> */
    private array $complaints = [];

    private int $refused = 0;

    private function __construct()
    {
    }

    public static function read(string $json): Reception
    {
        $reader = new self();
        $body = json_decode($json, true, 32);
        if (! is_array($body) || ! is_array($body['resourceMetrics'] ?? null)) {
            return new Reception([], ['The body is no JSON of OTLP metrics: it has no resourceMetrics.'], 1);
        }
        foreach (self::lists($body, 'resourceMetrics') as $r => $resource) {
            $attributes = self::attributes(is_array($resource['resource'] ?? null) ? $resource['resource'] : []);
            $host = $attributes['host.name'] ?? $attributes['service.instance.id'] ?? $attributes['service.name'] ?? '';
            $labels = array_intersect_key($attributes, array_flip(self::OF_RESOURCE));
            foreach (self::lists($resource, 'scopeMetrics') as $s => $scope) {
                foreach (self::lists($scope, 'metrics') as $m => $metric) {
                    $reader->metric($metric, $host, $labels, "resourceMetrics[{$r}].scopeMetrics[{$s}].metrics[{$m}]");
                }
            }
        }

        return new Reception($reader->values, $reader->complaints, $reader->refused);
    }

    /**
     * @param  array<mixed>  $metric
     * @param  array<string, string>  $labels
     */
    private function metric(array $metric, string $host, array $labels, string $where): void
    {
        $name = is_string($metric['name'] ?? null) ? $metric['name'] : '';
        $unit = is_string($metric['unit'] ?? null) ? $metric['unit'] : '';
        foreach (['gauge', 'sum', 'histogram', 'summary', 'exponentialHistogram'] as $kind) {
            if (! is_array($metric[$kind] ?? null)) {
                continue;
            }
            $data = $metric[$kind];
            $isDelta = ($data['aggregationTemporality'] ?? null) === self::DELTA
                || ($data['aggregationTemporality'] ?? null) === 'AGGREGATION_TEMPORALITY_DELTA';
            foreach (self::lists($data, 'dataPoints') as $p => $point) {
                $at = "{$where}.{$kind}.dataPoints[{$p}]";
                $atMs = self::milliseconds($point['timeUnixNano'] ?? null);
                if ($atMs === null) {
                    $this->complain("{$at} of {$name}: timeUnixNano is missing, or no number");

                    continue;
                }
                $own = $labels + self::attributes($point);
                $isSum = $kind === 'sum';
                $parts = $kind === 'gauge' || $isSum ? [[$name, $unit, $point['asDouble'] ?? $point['asInt'] ?? null, []]]
                    : self::parts($name, $unit, $point);
                foreach ($parts as [$part, $its, $value, $more]) {
                    $isCounter = $isSum ? ($data['isMonotonic'] ?? false) === true : $kind !== 'gauge';
                    $this->value($host, $atMs, $part, $its, $value, $own + $more, $isCounter, $isDelta && $kind !== 'gauge', $at);
                }
            }

            return;
        }
        $this->complain("{$where} of {$name}: neither gauge, sum, histogram nor summary");
    }

    /**
     * @param  array<string, string>  $labels
     */
    private function value(
        string $host,
        int $atMs,
        string $name,
        string $unit,
        mixed $value,
        array $labels,
        bool $isCounter,
        bool $isDelta,
        string $where,
    ): void {
        // Whole numbers of 64 bits are texts in this mapping.
        $number = is_numeric($value) ? (float) $value : null;
        $refusal = $number === null || ! is_finite($number) ? 'its value is no number' : SeriesLimits::refusal($name, $unit, $labels);
        if ($number === null || $refusal !== null) {
            $this->complain("{$where} of {$name}: {$refusal}");

            return;
        }
        $this->values[] = new Received($host, $atMs, new Metric($name, $unit, $number, $labels, $isCounter), $isDelta);
    }

    /**
     * What is kept of a histogram or a summary.
     *
     * @param  array<mixed>  $point
     * @return list<array{string, string, mixed, array<string, string>}> name, unit, value and a label of its own
     */
    private static function parts(string $name, string $unit, array $point): array
    {
        $parts = [["{$name}.count", '1', $point['count'] ?? null, []]];
        if (isset($point['sum'])) {
            $parts[] = ["{$name}.sum", $unit, $point['sum'], []];
        }
        $bounds = is_array($point['explicitBounds'] ?? null) ? array_values($point['explicitBounds']) : [];
        $counts = is_array($point['bucketCounts'] ?? null) ? array_values($point['bucketCounts']) : [];
        $sum = 0.0;
        foreach ($bounds as $i => $bound) {
            $sum += is_numeric($counts[$i] ?? null) ? (float) $counts[$i] : 0.0;
            $parts[] = ["{$name}.bucket", '1', $sum, ['le' => is_scalar($bound) ? (string) $bound : '']];
        }

        return $parts;
    }

    /**
     * @param  array<mixed>  $of
     * @return array<string, string>
     */
    private static function attributes(array $of): array
    {
        $attributes = [];
        foreach (self::lists($of, 'attributes') as $one) {
            $value = is_array($one['value'] ?? null) ? $one['value'] : [];
            $plain = $value['stringValue'] ?? $value['intValue'] ?? $value['doubleValue'] ?? $value['boolValue'] ?? null;
            if (is_string($one['key'] ?? null) && is_scalar($plain)) {
                $attributes[$one['key']] = is_bool($plain) ? ($plain ? 'true' : 'false') : (string) $plain;
            }
        }

        return $attributes;
    }

    /**
     * @param  array<mixed>  $of
     * @return array<int|string, array<mixed>>
     */
    private static function lists(array $of, string $name): array
    {
        return array_filter(is_array($of[$name] ?? null) ? $of[$name] : [], is_array(...));
    }

    private static function milliseconds(mixed $nano): ?int
    {
        $text = is_int($nano) ? (string) $nano : $nano;

        return is_string($text) && preg_match('~^\d{7,19}$~', $text) === 1 ? (int) substr($text, 0, -6) : null;
    }

    private function complain(string $complaint): void
    {
        $this->refused++;
        if (count($this->complaints) < self::COMPLAINTS) {
            $this->complaints[] = mb_strcut($complaint, 0, 300);
        }
    }
}
