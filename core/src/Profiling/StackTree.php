<?php

declare(strict_types=1);

namespace Fulcrion\Core\Profiling;

/**
 * Where time went, as stacks that begin alike share their beginning. It holds so many different places at most; what comes beyond counts
 * for the place above it.
 */
final class StackTree
{
    public const MOST_NODES = 100_000;

    public const MOST_DEPTH = 256;

    public readonly StackNode $root;

    private int $nodes = 0;

    private float $folded = 0.0;

    public function __construct(private readonly int $mostNodes = self::MOST_NODES)
    {
        $this->root = new StackNode('all');
    }

    /**
     * @param  list<string>  $frames the outermost first
     * @param  float  $weight samples or time, above 0
     */
    public function add(array $frames, float $weight): void
    {
        $node = $this->root;
        $node->total += $weight;
        foreach ($frames as $depth => $frame) {
            $next = $node->children[$frame] ?? null;
            if ($next === null) {
                if ($this->nodes >= $this->mostNodes || $depth >= self::MOST_DEPTH) {
                    $this->folded += $weight;
                    break;
                }
                $this->nodes++;
                $next = $node->children[$frame] = new StackNode($frame);
            }
            $next->total += $weight;
            $node = $next;
        }
        $node->own += $weight;
    }

    /** What counts for a place further out than it was, as there are too many places or too deep ones. */
    public function folded(): float
    {
        return $this->folded;
    }

    public function count(): int
    {
        return $this->nodes;
    }

    /**
     * The same as text, a line a place that has time of its own, the most first.
     *
     * @return list<string>
     */
    public function lines(): array
    {
        $lines = [];
        $this->gather($this->root, '', $lines);
        arsort($lines);

        return array_map(static fn (string $stack, float $weight): string => $stack.' '.rtrim(rtrim(sprintf('%.3F', $weight), '0'), '.'),
            array_map(strval(...), array_keys($lines)), array_values($lines));
    }

    /**
     * Each function with what it took itself and with all it called; a function that calls itself counts once.
     *
     * @return list<array{name: string, own: float, total: float}> what took most itself first
     */
    public function functions(): array
    {
        $own = $total = [];
        self::sum($this->root, [], $own, $total);
        $functions = [];
        foreach ($total as $name => $weight) {
            $functions[] = ['name' => strval($name), 'own' => $own[$name] ?? 0.0, 'total' => $weight];
        }
        usort($functions, static fn (array $a, array $b): int => [$b['own'], $b['total'], $a['name']] <=> [$a['own'], $a['total'],
            $b['name']]);

        return $functions;
    }

    /**
     * Part of all that has a function whose name holds a text, wherever it stands.
     */
    public function shareOf(string $text): float
    {
        return $this->root->total > 0.0 ? self::with($this->root, mb_strtolower($text)) / $this->root->total : 0.0;
    }

    /**
     * @param  array<string, float>  $lines
     */
    private function gather(StackNode $node, string $stack, array &$lines): void
    {
        if ($node->own > 0.0 && $stack !== '') {
            $lines[$stack] = $node->own;
        }
        foreach ($node->children as $child) {
            $this->gather($child, $stack === '' ? $child->name : "{$stack};{$child->name}", $lines);
        }
    }

    /**
     * @param  array<string, true>  $above names of the functions that called
     * @param  array<string, float>  $own
     * @param  array<string, float>  $total
     */
    private static function sum(StackNode $node, array $above, array &$own, array &$total): void
    {
        foreach ($node->children as $child) {
            $own[$child->name] = ($own[$child->name] ?? 0.0) + $child->own;
            $isFirst = ! isset($above[$child->name]);
            $total[$child->name] = ($total[$child->name] ?? 0.0) + ($isFirst ? $child->total : 0.0);
            self::sum($child, $isFirst ? $above + [$child->name => true] : $above, $own, $total);
        }
    }

    private static function with(StackNode $node, string $text): float
    {
        $weight = 0.0;
        foreach ($node->children as $child) {
            $weight += str_contains(mb_strtolower($child->name), $text) ? $child->total : self::with($child, $text);
        }

        return $weight;
    }
}
