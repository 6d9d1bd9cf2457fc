<?php

declare(strict_types=1);

namespace App\Usage\Application;

use App\Platform\Figures\Figure;
use App\Telemetry\Usage\Amount;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use App\Usage\Charts\PartsFigure;
use Fulcrion\Core\Usage\UsageBridge;

/**
 * Why the use of two periods differs, one step deeper each time.
 */
final readonly class WhyPage
{
    public const SHOWN = 10;

    /**
     * @param  array<string, string>  $texts of statements
     */
    private function __construct(
        public UsageScope $scope,
        public UsageField $by,
        public UsageBridge $bridge,
        public array $texts,
        public ?Figure $figure,
    ) {
    }

    public static function of(UsageScope $scope, UsageField $by, UsageReader $reader): self
    {
        $bridge = UsageBridge::of($reader->by($by, $scope, $scope->against), $reader->by($by, $scope, $scope->days));
        $keys = array_map(static fn ($one): string => $one->key, array_slice($bridge->changes, 0, 50));
        $texts = $by === UsageField::Statement ? $reader->texts($keys) : [];
        $page = new self($scope, $by, $bridge, $texts, null);

        return new self($scope, $by, $bridge, $texts, $bridge->changes === [] ? null : PartsFigure::draw($page));
    }

    /** What a subject is called on the page. */
    public function name(string $key): string
    {
        $text = $this->texts[$key] ?? null;

        return $text === null ? $key : substr($key, 0, 8).': '.trim((string) preg_replace('~\s+~', ' ', $text));
    }

    public function sentence(): string
    {
        $bridge = $this->bridge;
        $measure = $this->scope->measure;
        if ($bridge->changes === []) {
            return 'Nothing was used in either period';
        }
        $parts = array_filter($bridge->parts(), static fn (int $part): bool => $part !== 0);
        uasort($parts, static fn (int $a, int $b): int => abs($b) <=> abs($a));
        $names = [
            'new' => $this->by->plural().' that are new',
            'gone' => $this->by->plural().' that are gone',
            'moreExecutions' => ($parts['moreExecutions'] ?? 0) > 0 ? 'more executions' : 'fewer executions',
            'moreEach' => ($parts['moreEach'] ?? 0) > 0 ? 'more per execution' : 'less per execution',
        ];
        $first = array_key_first($parts);
        $change = $bridge->change();

        return ($change === 0 ? 'As much was used as in '.$this->scope->againstText
            : Amount::change($measure, $change)." of {$measure->label()} against {$this->scope->againstText}").
            ($first === null ? '' : ", most of it {$names[$first]}; {$this->by->label()} that changed most: "
                .mb_strimwidth($this->name($bridge->changes[0]->key), 0, 60, '…')
                .', '.Amount::change($measure, $bridge->changes[0]->change()));
    }

    /** The page one step deeper, or of the statement itself. */
    public function deeper(string $key): string
    {
        $deeper = $this->by->deeper();
        if ($deeper === null) {
            return address('statement.show', $key).'?'.http_build_query(
                ($this->scope->cluster === null ? [] : ['cluster' => $this->scope->cluster->slug]) + ['window' => 'last 28 days'],
            );
        }

        return address('usage.why').'?'.http_build_query($this->scope->query([$this->by->value => $key, 'by' => $deeper->value]));
    }

    /**
     * @return list<array{string, string}> from all use to what is looked at: name and address
     */
    public function trail(): array
    {
        $query = array_diff_key($this->scope->query(), $this->scope->only);
        $trail = [['All use', address('usage.why').'?'.http_build_query($query)]];
        foreach ($this->scope->only as $field => $value) {
            $query[$field] = $value === '' ? UsageField::from($field)->none() : $value;
            $by = UsageField::from($field)->deeper() ?? UsageField::Statement;
            $trail[] = [$query[$field], address('usage.why').'?'.http_build_query($query + ['by' => $by->value])];
        }

        return $trail;
    }
}
