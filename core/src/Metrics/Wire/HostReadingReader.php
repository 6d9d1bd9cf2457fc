<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics\Wire;

use Fulcrion\Core\Metrics\BusyProcess;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\ProcText;

/**
 * Reads what agents send (docs/formats/host-readings.md): files of /proc as they are, so that all hosts are read by one and the same code.
 */
final class HostReadingReader
{
    private const COMPLAINTS = 20;

    private const PROCESSES = 20;

    private const SETTINGS = 1_000;

    private const SETTING_BYTES = 65_536;

    public static function read(string $json): SentReadings
    {
        $body = json_decode($json, true, 16);
        $host = is_array($body) && is_string($body['host'] ?? null) ? trim($body['host']) : '';
        if (! is_array($body) || $host === '' || ! is_array($body['readings'] ?? null)) {
            return new SentReadings(new Reception([], ['The body is no JSON with a host and its readings.'], 1), null);
        }
        $values = $complaints = $processes = $settings = $baselines = [];
        $refused = 0;
        foreach (array_values($body['readings']) as $place => $reading) {
            $reading = is_array($reading) ? $reading : [];
            $atMs = is_int($reading['at_ms'] ?? null) ? $reading['at_ms'] : 0;
            $metrics = $atMs > 0 ? self::metrics($reading) : [];
            if ($metrics === []) {
                $refused++;
                if (count($complaints) < self::COMPLAINTS) {
                    $complaints[] = "readings[{$place}]: ".($atMs > 0 ? 'no file of /proc could be read' : 'at_ms is missing');
                }

                continue;
            }
            foreach ($metrics as $metric) {
                $values[] = new Received($host, $atMs, $metric);
            }
            $busy = array_map(BusyProcess::read(...), is_array($reading['processes'] ?? null) ? array_values($reading['processes']) : []);
            $processes[$atMs] = array_slice(array_values(array_filter($busy)), 0, self::PROCESSES);
            if (is_array($reading['settings'] ?? null)) {
                $settings[$atMs] = self::settings($reading['settings']);
            }
            if (is_array($reading['baseline'] ?? null)) {
                $baselines[] = $reading['baseline'];
            }
        }

        return new SentReadings(new Reception($values, $complaints, $refused), is_int($body['sent_ms'] ?? null) ? $body['sent_ms'] : null,
            $host, $processes, $settings, $baselines);
    }

    /**
     * @param  array<mixed>  $files
     * @return array<string, string|null>
     */
    private static function settings(array $files): array
    {
        $settings = [];
        foreach (array_slice($files, 0, self::SETTINGS, true) as $path => $text) {
            if ($text === null || is_string($text)) {
                $settings[(string) $path] = $text === null ? null : mb_scrub(substr($text, 0, self::SETTING_BYTES));
            }
        }

        return $settings;
    }

    /**
     * @param  array<mixed>  $reading
     * @return list<Metric>
     */
    private static function metrics(array $reading): array
    {
        $files = [];
        foreach (is_array($reading['files'] ?? null) ? $reading['files'] : [] as $name => $text) {
            if (is_string($text) && in_array($name, ProcText::FILES, true)) {
                $files[$name] = $text;
            }
        }
        $metrics = ProcText::read($files);
        foreach (is_array($reading['file_systems'] ?? null) ? $reading['file_systems'] : [] as $one) {
            $one = is_array($one) ? $one : [];
            [$at, $bytes, $free] = [$one['mountpoint'] ?? null, $one['bytes'] ?? null, $one['free'] ?? null];
            if (is_string($at) && is_numeric($bytes) && is_numeric($free) && $bytes > 0
                && SeriesLimits::refusal('system.filesystem.usage', 'By', ['system.filesystem.mountpoint' => $at]) === null) {
                array_push($metrics, ...ProcText::fileSystem($at, (float) $bytes, (float) $free));
            }
        }

        return $metrics;
    }
}
