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
            'functions' => self::functions($tree, $before),
            'sentence' => self::sentence($tree),
        ];
    }

    /**
     * @return list<array{name: string, own: float, total: float, before: float|null}> shares of all
     */
    private static function functions(StackTree $tree, ?StackTree $before): array
    {
        $all = max(1e-12, $tree->root->total);
        $was = [];
        foreach ($before?->functions() ?? [] as $one) {
            $was[$one['name']] = $one['own'] / max(1e-12, $before->root->total ?? 0.0);
        }
        $functions = [];
        foreach ($tree->functions() as $one) {
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

    private static function sentence(StackTree $tree): string
    {
        $first = $tree->functions()[0] ?? null;
        $all = $tree->root->total;
        if ($first === null || $all <= 0.0) {
            return 'Nothing was at work';
        }
        $below = self::deepest($tree->root, $all);

        return Quantity::percent($first['own'] / $all)." of the time is spent in {$first['name']} itself"
            .($below === null || $below->name === $first['name'] || $below->total > self::NEARLY_ALL * $all ? '' : ', and '
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
