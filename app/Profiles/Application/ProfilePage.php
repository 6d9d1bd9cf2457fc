<?php

declare(strict_types=1);

namespace App\Profiles\Application;

use App\Profiles\Charts\IcicleFigure;
use App\Profiles\Models\KeptProfile;
use Fulcrion\Core\Profiling\StackNode;
use Fulcrion\Core\Profiling\StackTree;
use Fulcrion\Core\Text\Quantity;

/**
 * What the page of a profile says.
 */
final readonly class ProfilePage
{
    private const FUNCTIONS = 40;

    /** That all is below a function says nothing. */
    private const NEARLY_ALL = 0.95;

    /**
     * @param  KeptProfile|null  $with one it is held against: that was before
     * @param  string  $path names of functions down to where the figure begins, with semicolons between them
     * @param  string  $search part of a name
     * @return array<string, mixed>
     */
    public function of(KeptProfile $profile, ?KeptProfile $with, string $path, string $search): array
    {
        $tree = $profile->tree();
        $before = $with?->tree();
        $names = $path === '' ? [] : explode(';', $path);
        $functions = $tree->functions();
        $root = $tree->root->at($names);
        if ($root === null) {
            [$names, $root] = [[], $tree->root];
        }

        return [
            'profile' => $profile,
            'with' => $with,
            'names' => $names,
            'search' => $search,
            'found' => $search === '' ? null : $tree->shareOf($search),
            'figure' => IcicleFigure::draw($profile, $tree, $root, $names, $before, $search),
            'functions' => self::functions($functions, $tree->root->total, $before),
            'sentence' => self::sentence($functions[0]['name'] ?? null, $functions[0]['own'] ?? 0.0, $tree->root),
        ];
    }

    /**
     * @param  list<array{name: string, own: float, total: float}>  $now
     * @param  float  $all what everything took
     * @return list<array{name: string, own: float, total: float, before: float|null}> shares of all
     */
    private static function functions(array $now, float $all, ?StackTree $before): array
    {
        $all = max(1e-12, $all);
        $was = [];
        foreach ($before?->functions() ?? [] as $one) {
            $was[$one['name']] = $one['own'] / max(1e-12, $before->root->total ?? 0.0);
        }
        $functions = [];
        foreach ($now as $one) {
            $functions[] = ['name' => $one['name'], 'own' => $one['own'] / $all, 'total' => $one['total'] / $all,
                'before' => $before === null ? null : $was[$one['name']] ?? 0.0];
        }
        if ($before !== null) {
            foreach (array_diff_key($was, array_column($functions, null, 'name')) as $name => $share) {
                $functions[] = ['name' => (string) $name, 'own' => 0.0, 'total' => 0.0, 'before' => $share];
            }
            usort($functions, static fn (array $a, array $b): int => abs($b['own'] - ($b['before'] ?? 0.0)) <=> abs($a['own']
                - ($a['before'] ?? 0.0)));
        }

        return array_slice($functions, 0, self::FUNCTIONS);
    }

    /**
     * @param  string|null  $first the function that took most itself; null where there is none
     * @param  float  $own what it took
     */
    private static function sentence(?string $first, float $own, StackNode $root): string
    {
        $all = $root->total;
        if ($first === null || $all <= 0.0) {
            return 'Nothing was at work';
        }
        $below = self::deepest($root, $all);

        return Quantity::percent($own / $all)." of the time is spent in {$first} itself"
            .($below === null || $below->name === $first || $below->total > self::NEARLY_ALL * $all ? '' : ', and '
                .Quantity::percent($below->total / $all)
                ." below {$below->name}");
    }

    /** The furthest in that has half of all below it. */
    private static function deepest(StackNode $node, float $all): ?StackNode
    {
        foreach ($node->children as $child) {
            if ($child->total >= $all / 2 && $child->total > $child->own) {
                return self::deepest($child, $all) ?? $child;
            }
        }

        return null;
    }
}
