<?php

declare(strict_types=1);

namespace App\Profiles\Charts;

use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Svg;
use App\Profiles\Models\KeptProfile;
use Fulcrion\Core\Profiling\StackNode;
use Fulcrion\Core\Profiling\StackTree;
use Fulcrion\Core\Text\Quantity;

/**
 * Functions from the top, what each called below it, as wide as its share. Where it is held against an earlier profile a hollow frame
 * shows how wide it was then.
 */
final class IcicleFigure
{
    private const ROW = 22;

    private const MOST_ROWS = 40;

    /** Narrower than this nothing can be seen of it. */
    private const LEAST_WIDTH = 1.5;

    private const MOST_BOXES = 3_000;

    private const LETTER = 6.6;

    private const SHADES = 4;

    /** A share that differs by less is the same. */
    private const ALIKE = 0.03;

    private int $boxes = 0;

    /** @var list<list<string>> */
    private array $rows = [];

    /**
     * @param  list<string>  $path names down to the root of the figure
     */
    private function __construct(
        private readonly Frame $frame,
        private readonly float $all,
        private readonly ?StackTree $before,
        private readonly string $search,
        private readonly string $address,
        private readonly string $unit,
        private readonly array $path,
    ) {
    }

    /**
     * @param  list<string>  $path
     */
    public static function draw(KeptProfile $profile, StackTree $tree, StackNode $root, array $path, ?StackTree $before,
        string $search): Figure
    {
        $depth = min(self::MOST_ROWS, self::depth($root, $root->total / (Frame::WIDTH / self::LEAST_WIDTH)));
        $summary = "{$root->name}: ".Quantity::percent($root->total / max(1e-12, $tree->root->total)).' of the profile, '
            .count($root->children).' functions below it.';
        $frame = new Frame('icicle', 'Where the time goes', $summary, Axis::even(0.0, 1.0), Axis::even(0.0, 1.0),
            height: ($depth + 1) * self::ROW + 12, left: 1, top: 6, beside: 1, below: 4, links: true);
        $figure = new self($frame, $tree->root->total, $before, mb_strtolower($search), address('profile.show', $profile->id),
            $profile->unit,
            $path);
        $figure->box($root, 0.0, 1.0, 0, $path);

        return $frame->figure(
            'From the top: what was called first, and below it what that called; as wide as its share of the whole. Darker, and the line '
                .'at its foot longer, where more of it is its own. Within one place the widest stands first, so what stands beside each '
                .'other did not follow each other in time.'
                .($before === null ? '' : ' Hollow: as wide as it was before, from the same edge.'),
            ['function', 'depth', 'share', 'itself'],
            $figure->rows,
        );
    }

    private static function depth(StackNode $node, float $least): int
    {
        $depth = 0;
        foreach ($node->children as $child) {
            if ($child->total >= $least) {
                $depth = max($depth, 1 + self::depth($child, $least));
            }
        }

        return $depth;
    }

    /**
     * @param  float  $from left edge, 0 to 1
     * @param  float  $width of all that is drawn
     * @param  list<string>  $path
     */
    private function box(StackNode $node, float $from, float $width, int $row, array $path): void
    {
        $left = $this->frame->x($from);
        $pixels = $width * ($this->frame->right - $this->frame->left);
        if ($pixels < self::LEAST_WIDTH || $row > self::MOST_ROWS || $this->boxes >= self::MOST_BOXES) {
            return;
        }
        $this->boxes++;
        $share = $node->total / max(1e-12, $this->all);
        $was = $this->before === null ? null
            : ($this->before->root->at($path)->total ?? 0.0) / max(1e-12, $this->before->root->total);
        $said = "{$node->name}: ".Quantity::percent($share).', '.$this->amount($node->total).'; itself '.Quantity::percent($node->own
            / max(1e-12, $this->all)).($was === null ? '' : '; before '.Quantity::percent($was));
        $y = $this->frame->top + $row * self::ROW;
        $isFound = $this->search !== '' && str_contains(mb_strtolower($node->name), $this->search);
        $own = $node->own / max(1e-12, $node->total);
        $class = 'icicle i'.(1 + (int) floor(min(0.999, $own) * self::SHADES))
            .($isFound ? ' found' : ($this->search !== '' ? ' other' : ''));
        $this->frame->box($class, $left, $y, max(1.0, $pixels - 1), self::ROW - 2, $said,
            $this->address.'?'.http_build_query(['at' => implode(';', $path)] + ($this->search === '' ? [] : ['search' => $this->search])));
        if ($own > 0.0) {
            $this->frame->add('<rect class="icicle-own" x="'.Svg::number($left).'" y="'.Svg::number($y + self::ROW - 5).'" width="'
                .Svg::number(max(0.0, ($pixels - 1) * $own)).'" height="3"/>');
        }
        if ($was !== null && $share > 0.0 && abs($was - $share) > self::ALIKE * $share) {
            $this->frame->add('<rect class="icicle-before" x="'.Svg::number($left).'" y="'.Svg::number($y + 0.5).'" width="'
                .Svg::number(min($this->frame->right - $left, $pixels * $was / $share)).'" height="'.(self::ROW - 3).'"/>');
        }
        $letters = (int) (($pixels - 8) / self::LETTER);
        if ($letters >= 3) {
            $this->frame->text($left + 4, $y + 14, mb_strimwidth($node->name, 0, $letters, '…'), 'tick icicle-name', 'start');
        }
        if (count($this->rows) < 200) {
            $this->rows[] = [$node->name, (string) ($row + count($this->path)), Quantity::percent($share), Quantity::percent($node->own
                / max(1e-12, $this->all))];
        }
        $children = $node->children;
        uasort($children, static fn (StackNode $a, StackNode $b): int => [$b->total, $a->name] <=> [$a->total, $b->name]);
        foreach ($children as $child) {
            $part = $width * $child->total / max(1e-12, $node->total);
            $this->box($child, $from, $part, $row + 1, [...$path, $child->name]);
            $from += $part;
        }
    }

    private function amount(float $weight): string
    {
        return $this->unit === 'ms' ? Quantity::duration($weight * 1_000) : Quantity::count(round($weight)).' samples';
    }
}
