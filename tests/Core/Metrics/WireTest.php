<?php

declare(strict_types=1);

namespace Tests\Core\Metrics;

use Fulcrion\Core\Metrics\Wire\HostReadingReader;
use Fulcrion\Core\Metrics\Wire\OpenMetricsReader;
use Fulcrion\Core\Metrics\Wire\OtlpReader;
use Fulcrion\Core\Metrics\Wire\Received;
use Fulcrion\Core\Metrics\Wire\Reception;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * What is received in open formats; the files were written by libraries of these.
 */
final class WireTest extends TestCase
{
    private const DATA = __DIR__.'/data';

    /**
     * @return array<string, float> value by series
     */
    private static function values(Reception $reception): array
    {
        $values = [];
        foreach ($reception->values as $one) {
            $values[$one->metric->key()] = $one->metric->value;
        }

        return $values;
    }

    public function test_otlp_as_its_own_library_writes_it(): void
    {
        $service = '"service.name":"climate-gateway"';
        foreach (['cumulative' => false, 'delta' => true] as $kind => $isDelta) {
            $reception = OtlpReader::read((string) file_get_contents(self::DATA."/otlp-{$kind}.json"));
            self::assertSame([[], 0, 16], [$reception->complaints, $reception->refused, count($reception->values)]);
            $values = self::values($reception);
            self::assertSame(1_200.0, $values["gateway.readings {\"bay\":\"12\",{$service}}"]);
            self::assertSame(7.0, $values["gateway.open.connections {{$service}}"]);
            self::assertSame(21.375, $values["gateway.temperature {\"bay\":\"12\",{$service}}"]);
            self::assertSame([5.0, 714.1], [$values["gateway.delay.count {\"bay\":\"12\",{$service}}"],
                $values["gateway.delay.sum {\"bay\":\"12\",{$service}}"]]);
            // Up to each bound, as in the open exposition format: 0.2, 0.4 and 1.5 up to 5, 12 up to 25, 700 up to 1,000.
            self::assertSame([3.0, 4.0, 5.0], array_map(
                static fn (string $le): float => $values["gateway.delay.bucket {\"bay\":\"12\",\"le\":\"{$le}\",{$service}}"],
                ['10', '500', '1000'],
            ));
            foreach ($reception->values as $one) {
                self::assertSame('glass-12', $one->host);
                self::assertGreaterThan(1_796_000_000_000, $one->atMs);
                $isGauge = $one->metric->name === 'gateway.temperature';
                self::assertSame($isDelta && ! $isGauge, $one->isDelta, $one->metric->name);
                // A sum that may fall is no counter.
                self::assertSame(! $isGauge && $one->metric->name !== 'gateway.open.connections', $one->metric->isCounter);
            }
        }
    }

    public function test_otlp_that_is_wrong_says_where_and_keeps_the_rest(): void
    {
        $point = static fn (mixed $value, mixed $nano = '1793577600000000000'): array => ['asDouble' => $value, 'timeUnixNano' => $nano];
        $json = (string) json_encode(['resourceMetrics' => [['scopeMetrics' => [['metrics' => [
            ['name' => 'good', 'gauge' => ['dataPoints' => [$point(1.5), $point('a lot'), $point(2.5, null), $point(3, 'soon')]]],
            ['name' => 'empty'],
            ['name' => str_repeat('n', 121), 'gauge' => ['dataPoints' => [$point(1)]]],
            ['name' => 'labelled', 'gauge' => ['dataPoints' => [$point(4) + ['attributes' => array_map(
                static fn (int $i): array => ['key' => "k{$i}", 'value' => ['intValue' => (string) $i]], range(1, 31))]]]],
            'no metric',
        ]]]]]]);
        $reception = OtlpReader::read($json);
        self::assertSame([1.5], array_values(self::values($reception)));
        self::assertSame(6, $reception->refused);
        self::assertStringStartsWith('resourceMetrics[0].scopeMetrics[0].metrics[0].gauge.dataPoints[1] of good: its value is no number',
            $reception->complaints[0]);
        self::assertStringContainsString('timeUnixNano is missing', $reception->complaints[1]);
        self::assertStringContainsString('of empty: neither gauge', $reception->complaints[3]);
        self::assertStringContainsString('a name has 120 characters at most', $reception->complaints[4]);
        self::assertStringContainsString('30 labels at most', $reception->complaints[5]);
        foreach (['', 'null', '[]', '{"resourceMetrics":1}', '{"resourceMetrics":', str_repeat('[', 100)] as $broken) {
            self::assertSame([[], 1], [OtlpReader::read($broken)->values, OtlpReader::read($broken)->refused]);
        }
        self::assertSame([], OtlpReader::read('{"resourceMetrics":[{"scopeMetrics":[{"metrics":7}]},4,{"resource":3}]}')->values);
    }

    public function test_the_open_exposition_format_as_a_library_writes_it(): void
    {
        $reception = OpenMetricsReader::read((string) file_get_contents(self::DATA.'/openmetrics.txt'), 'glass-12', 5_000, true);
        self::assertSame([[], 0], [$reception->complaints, $reception->refused]);
        self::assertSame([
            'pump_starts_total {"glasshouse":"12","pump":"north"}' => 42.0,
            'pump_starts_total {"glasshouse":"12","pump":"so\"uth\\\\"}' => 3.0,
            'water_level_metres {"glasshouse":"12"}' => 1.75,
            'valve_seconds_bucket {"glasshouse":"12","le":"0.5"}' => 0.0,
            'valve_seconds_bucket {"glasshouse":"12","le":"1"}' => 1.0,
            'valve_seconds_bucket {"glasshouse":"12","le":"5"}' => 1.0,
            'valve_seconds_bucket {"glasshouse":"12","le":"+Inf"}' => 2.0,
            'valve_seconds_sum {"glasshouse":"12"}' => 7.7,
            'valve_seconds_count {"glasshouse":"12"}' => 2.0,
            'fan_watts {"glasshouse":"12","quantile":"0.5"}' => 40.0,
            'fan_watts {"glasshouse":"12","quantile":"0.9"}' => 50.0,
            'fan_watts_sum {"glasshouse":"12"}' => 80.0,
            'fan_watts_count {"glasshouse":"12"}' => 2.0,
        ], self::values($reception));
        self::assertSame(['pump_starts_total', 'valve_seconds_bucket', 'valve_seconds_sum', 'valve_seconds_count', 'fan_watts_sum',
            'fan_watts_count'], array_values(array_unique(array_map(static fn (Received $one): string => $one->metric->name, array_filter(
                $reception->values, static fn (Received $one): bool => $one->metric->isCounter)))));
        self::assertSame([5_000, 'glass-12'], [$reception->values[0]->atMs, $reception->values[0]->host]);
    }

    /**
     * @return array<string, array{string, list<array{string, float, int}>, list<string>}>
     */
    public static function texts(): array
    {
        return [
            'moments in seconds and in milliseconds' => ["a 1 1793577600.5\nb 2 1793577600500\n# EOF\n",
                [['a', 1.0, 1_793_577_600_500], ['b', 2.0, 1_793_577_600_500]], []],
            'a unit and a created sample' => ["# TYPE w_bytes counter\n# UNIT w_bytes bytes\nw_bytes_total 7\nw_bytes_created 1.5\n",
                [['w_bytes_total', 7.0, 9]], []],
            'what is not finite is no point' => ["a NaN\nb +Inf\nc -Inf\nd 1e3\n", [['d', 1_000.0, 9]], []],
            'lines that are no samples' => ["a 1\n1a 2\nb{x=1} 3\nc{x=\"1\"} many\nd{x=\"1\",x=\"2\"} 4\ne\nf 5 6 7\n", [['a', 1.0, 9]], [
                'line 2: this is no sample: 1a 2', 'line 3: this is no sample: b{x=1} 3', 'line 4: "many" is no number',
                'line 5: the label x stands there twice', 'line 6: this is no sample: e', 'line 7: this is no sample: f 5 6 7']],
            'odd labels' => ["a{x=\"{},= # \\\"\\\\\\n\", y=\"\" } 1 # {t=\"1\"} 2\r\n", [['a {"x":"{},= # \\"\\\\\\n","y":""}', 1.0, 9]],
                []],
            'nothing after the end' => ["a 1\n# EOF\nb 2\n", [['a', 1.0, 9]], ['line 3: something comes after the end mark # EOF']],
            'nothing' => ['', [], []],
        ];
    }

    /**
     * @param  list<array{string, float, int}>  $values
     * @param  list<string>  $complaints
     */
    #[DataProvider('texts')]
    public function test_odd_texts(string $text, array $values, array $complaints): void
    {
        $reception = OpenMetricsReader::read($text, 'h', 9);
        self::assertSame($values, array_map(static fn (Received $one): array => [$one->metric->key(), $one->metric->value, $one->atMs],
            $reception->values));
        self::assertSame($complaints, $reception->complaints);
    }

    public function test_a_text_that_was_cut_off_is_not_taken(): void
    {
        $reception = OpenMetricsReader::read("a 1\nb 2\nc 3", 'h', 9, true);
        self::assertSame([[], 3], [$reception->values, $reception->refused]);
        self::assertStringContainsString('cut off', $reception->complaints[0]);
    }

    public function test_a_hostile_line_is_one_line_that_cannot_be_read(): void
    {
        $text = 'a{'.str_repeat('x="1" ', 20_000)."} y\nb{".str_repeat(' ', 200_000)."} 1\n".'c{x="'.str_repeat('\\', 100_000)."\nd 4\n";
        $reception = OpenMetricsReader::read($text, 'h', 9);
        self::assertContains(4.0, self::values($reception), 'what comes after them');
        self::assertGreaterThanOrEqual(2, $reception->refused);
    }

    public function test_an_agents_readings_are_read_like_the_own_host(): void
    {
        $json = (string) json_encode(['host' => 'fern-03', 'sent_ms' => 77, 'readings' => [
            ['at_ms' => 1_000, 'files' => ['stat' => "cpu  100 0 50 800 25 0 0 0\ncpu0 1 1 1 1", 'loadavg' => '0.50 0.1 0.1 1/2 3',
                'x' => 'y'],
                'file_systems' => [['mountpoint' => '/', 'bytes' => 100, 'free' => 40.0], ['mountpoint' => '/', 'bytes' => 0], 'x']],
            ['at_ms' => 2_000, 'files' => []], ['files' => ['loadavg' => '1 1 1 1/1 1']], 5,
        ]]);
        $readings = HostReadingReader::read($json);
        self::assertSame([77, 3], [$readings->sentMs, $readings->reception->refused]);
        $values = self::values($readings->reception);
        self::assertSame([1.0, 8.0, 0.5, 60.0], [
            $values['system.cpu.time {"cpu.mode":"user"}'], $values['system.cpu.time {"cpu.mode":"idle"}'],
            $values['system.cpu.load_average.1m'],
            $values['system.filesystem.usage {"system.filesystem.mountpoint":"/","system.filesystem.state":"used"}']]);
        self::assertSame('readings[1]: no file of /proc could be read', $readings->reception->complaints[0]);
        self::assertSame('readings[2]: at_ms is missing', $readings->reception->complaints[1]);
        self::assertSame([[1_000], []], [array_keys($readings->processes), $readings->processes[1_000]]);
        $busy = ['pid' => 4, 'name' => 'leaf', 'processors' => 0.5, 'residentBytes' => 8];
        $told = HostReadingReader::read((string) json_encode(['host' => 'h', 'readings' => [['at_ms' => 5, 'files' => ['loadavg' =>
            '0.50 0.1 0.1 1/2 3'], 'processes' => [$busy, 'x', ['pid' => 1], ...array_fill(0, 30, $busy)]]]]))->processes[5];
        self::assertSame([20, 'leaf', 0.5], [count($told), $told[0]->name, $told[0]->processors]);
        foreach (['', '{}', '{"host":"","readings":[]}', '{"host":"a","readings":3}'] as $broken) {
            self::assertSame(1, HostReadingReader::read($broken)->reception->refused);
        }
    }
}
