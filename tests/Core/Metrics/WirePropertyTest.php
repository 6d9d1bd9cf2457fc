<?php

declare(strict_types=1);

namespace Tests\Core\Metrics;

use Fulcrion\Core\Metrics\Wire\OpenMetricsReader;
use Fulcrion\Core\Metrics\Wire\OtlpReader;
use Fulcrion\Core\Metrics\Wire\Received;
use Fulcrion\Core\Metrics\Wire\SeriesLimits;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * What is written by the standards' grammar is read as it was meant, whatever it is.
 */
final class WirePropertyTest extends TestCase
{
    private const LETTERS = ['a', 'Z', '9', ' ', '{', '}', ',', '=', '#', '"', '\\', "\n", 'ä', '€', "'", '/'];

    private Randomizer $random;

    protected function setUp(): void
    {
        $this->random = new Randomizer(new Mt19937(31));
    }

    private function text(int $most): string
    {
        $text = '';
        for ($i = $this->random->getInt(0, $most); $i > 0; $i--) {
            $text .= self::LETTERS[$this->random->getInt(0, count(self::LETTERS) - 1)];
        }

        return $text;
    }

    /**
     * @return array<string, string>
     */
    private function labels(): array
    {
        $labels = [];
        for ($i = $this->random->getInt(0, 4); $i > 0; $i--) {
            $labels["l{$this->random->getInt(1, 9)}"] = $this->text(6);
        }

        return $labels;
    }

    public function test_any_families_in_the_open_exposition_format(): void
    {
        for ($draw = 0; $draw < 200; $draw++) {
            $text = '';
            $expected = [];
            for ($family = $this->random->getInt(0, 5); $family > 0; $family--) {
                $name = "f{$family}";
                [$type, $endings] = [['counter', ['_total']], ['gauge', ['']], ['histogram', ['_bucket', '_sum', '_count']], ['unknown',
                    ['']]][$this->random->getInt(0, 3)];
                $text .= "# HELP {$name} {$this->random->getInt(1, 9)} \\n\n# TYPE {$name} {$type}\n";
                for ($i = $this->random->getInt(1, 3); $i > 0; $i--) {
                    foreach ($endings as $ending) {
                        $labels = ['i' => (string) $i] + $this->labels();
                        $value = $this->random->getInt(-5, 5) * 10.0 ** $this->random->getInt(-3, 3);
                        $hasMoment = $this->random->getInt(0, 1) === 1;
                        $atMs = $hasMoment ? 1_793_577_600_000 + $this->random->getInt(0, 9) * 250 : 77;
                        $pairs = [];
                        foreach ($labels as $label => $its) {
                            $pairs[] = $label.'="'.strtr($its, ['\\' => '\\\\', '"' => '\\"', "\n" => '\\n']).'"';
                        }
                        $text .= "{$name}{$ending}{".implode(',', $pairs).'} '.json_encode($value).($hasMoment ? ' '.$atMs / 1_000 : '')
                            .($this->random->getInt(0, 3) === 0 ? ' # {trace_id="a b"} 0.5 1793577600.5' : '')."\n";
                        $expected[] = [$name.$ending, $labels, $value, $atMs, $type === 'counter' || $type === 'histogram'];
                    }
                }
            }
            $reception = OpenMetricsReader::read("{$text}# EOF\n", 'h', 77, true);
            self::assertSame([], $reception->complaints, $text);
            self::assertSame($expected, array_map(static fn (Received $one): array => [
                $one->metric->name, $one->metric->labels, $one->metric->value, $one->atMs, $one->metric->isCounter,
            ], $reception->values), $text);
        }
    }

    public function test_any_points_of_otlp(): void
    {
        for ($draw = 0; $draw < 200; $draw++) {
            $metrics = $expected = [];
            for ($i = $this->random->getInt(1, 5); $i > 0; $i--) {
                $labels = $this->labels();
                $atMs = 1_793_577_600_000 + $this->random->getInt(0, 99_999);
                $value = (float) ($this->random->getInt(-1_000, 1_000) / 8);
                $isWhole = $value === floor($value);
                $kind = ['gauge', 'sum'][$this->random->getInt(0, 1)];
                $isDelta = $kind === 'sum' && $this->random->getInt(0, 1) === 1;
                $isMonotonic = $kind === 'sum' && $this->random->getInt(0, 1) === 1;
                $metrics[] = ['name' => "m.{$i}", 'unit' => 'By', $kind => [
                    // By name and by number, as both are allowed.
                    'aggregationTemporality' => $isDelta ? [1, 'AGGREGATION_TEMPORALITY_DELTA'][$draw % 2] : 2,
                    'isMonotonic' => $isMonotonic,
                    'dataPoints' => [[
                        'timeUnixNano' => $draw % 3 === 0 ? $atMs * 1_000_000 : "{$atMs}000999",
                        'attributes' => array_map(
                            static fn (string $key, string $its): array => ['key' => $key, 'value' => ['stringValue' => $its]],
                            array_keys($labels),
                            $labels,
                        ),
                    ] + ($isWhole && $draw % 2 === 0 ? ['asInt' => (string) (int) $value] : ['asDouble' => $value])],
                ]];
                $expected[] = ["m.{$i}", $labels + ['service.name' => 's'], $value, $atMs, $isMonotonic, $isDelta];
            }
            $reception = OtlpReader::read((string) json_encode(['resourceMetrics' => [[
                'resource' => ['attributes' => [['key' => 'service.name', 'value' => ['stringValue' => 's']]]],
                'scopeMetrics' => [['metrics' => $metrics]],
            ]]]));
            self::assertSame([], $reception->complaints);
            foreach ($reception->values as $place => $one) {
                [$name, $labels, $value, $atMs, $isCounter, $isDelta] = $expected[$place];
                $its = $one->metric->labels;
                ksort($its);
                ksort($labels);
                self::assertSame(['s', $name, $labels, $value, $atMs, $isCounter, $isDelta], [$one->host, $one->metric->name, $its,
                    $one->metric->value, $one->atMs, $one->metric->isCounter, $one->isDelta]);
            }
            self::assertCount(count($expected), $reception->values);
        }
    }

    public function test_odd_kinds_of_otlp(): void
    {
        $read = static fn (array $metric): array => array_map(
            static fn (Received $one): string => $one->metric->key().'='.$one->metric->value.($one->metric->isCounter ? ' counter' : ''),
            OtlpReader::read((string) json_encode(['resourceMetrics' => [['scopeMetrics' => [['metrics' => [$metric]]]]]]))->values,
        );
        $at = ['timeUnixNano' => '1793577600000000000'];
        // A histogram without a sum and without bounds; an exponential one; a summary, of which the quantiles are not kept.
        self::assertSame(['h.count=4 counter'], $read(['name' => 'h', 'histogram' => ['dataPoints' => [$at + ['count' => '4']]]]));
        self::assertSame(['e.count=2 counter', 'e.sum=5 counter'], $read(['name' => 'e', 'exponentialHistogram' => ['dataPoints' => [
            $at + ['count' => 2, 'sum' => 5, 'scale' => 3]]]]));
        self::assertSame(['s.count=9 counter', 's.sum=1.5 counter'], $read(['name' => 's', 'summary' => ['dataPoints' => [$at + [
            'count' => '9', 'sum' => 1.5, 'quantileValues' => [['quantile' => 0.5, 'value' => 1]]]]]]));
        // Values of any simple kind are labels, lists are not.
        self::assertSame(['g {"b":"true","d":"1.5","i":"7"}=1'], $read(['name' => 'g', 'gauge' => ['dataPoints' => [$at + ['asDouble' => 1,
            'attributes' => [['key' => 'b', 'value' => ['boolValue' => true]], ['key' => 'i', 'value' => ['intValue' => '7']],
                ['key' => 'd', 'value' => ['doubleValue' => 1.5]], ['key' => 'l', 'value' => ['arrayValue' => []]], 'no label']]]]]));
        self::assertSame([], $read(['name' => 'n', 'gauge' => ['dataPoints' => [$at]]]));
        self::assertSame([], $read(['name' => '', 'gauge' => ['dataPoints' => [$at + ['asDouble' => 1]]]]));
    }

    public function test_what_a_series_may_be_at_most(): void
    {
        self::assertNull(SeriesLimits::refusal(str_repeat('n', 120), str_repeat('u', 40), []));
        self::assertSame('a metric has a name', SeriesLimits::refusal('', '', []));
        self::assertSame('a name has 120 characters at most', SeriesLimits::refusal(str_repeat('n', 121), '', []));
        self::assertSame('a unit has 40 characters at most', SeriesLimits::refusal('n', str_repeat('u', 41), []));
        $labels = [];
        for ($i = 0; $i < 31; $i++) {
            $labels["l{$i}"] = 'x';
        }
        self::assertSame('a series has 30 labels at most', SeriesLimits::refusal('n', '', $labels));
        self::assertNull(SeriesLimits::refusal('n', '', array_slice($labels, 0, 30)));
        // {"l":"…"} is eight bytes beside the value.
        self::assertNull(SeriesLimits::refusal('n', '', ['l' => str_repeat('x', 992)]));
        self::assertSame('the labels of a series take 1000 bytes at most', SeriesLimits::refusal('n', '', ['l' => str_repeat('x', 993)]));
    }
}
