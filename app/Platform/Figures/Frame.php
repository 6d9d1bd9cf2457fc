<?php

declare(strict_types=1);

namespace App\Platform\Figures;

use Closure;

/**
 * What figures with two axes share: the drawing with its title and summary, grid and labels, and marks put in by their values. A figure
 * adds what is its own, and hands over the same as a table.
 */
final class Frame
{
    /** Width of a letter of a tick, rather more than less. */
    private const LETTER = 7.0;

    public const WIDTH = 1180;

    private string $svg = '';

    public readonly float $right;

    public readonly float $bottom;

    /**
     * @param  string  $id of the figure in its page
     * @param  string  $summary one sentence that says what the figure shows
     * @param  string  $class of its own, after a space
     * @param  bool  $links whether its marks lead somewhere, so that a reader is told of each
     */
    public function __construct(
        private readonly string $id,
        private readonly string $title,
        private readonly string $summary,
        private readonly Axis $across,
        private readonly Axis $up,
        public readonly int $height,
        public readonly int $left = 84,
        public readonly int $top = 14,
        private readonly int $below = 24,
        int $beside = 8,
        private readonly bool $links = false,
        private readonly int $width = self::WIDTH,
        private readonly string $class = '',
    ) {
        $this->right = $width - $beside;
        $this->bottom = $height - $below;
    }

    public function x(float $value): float
    {
        return $this->left + $this->across->part($value) * ($this->right - $this->left);
    }

    public function y(float $value): float
    {
        return $this->top + (1 - $this->up->part($value)) * ($this->height - $this->top - $this->below);
    }

    /**
     * Lines across with what they stand for.
     *
     * @param  iterable<float|int>  $ticks
     * @param  Closure(float): string  $format
     */
    public function grid(iterable $ticks, Closure $format, int $gap = 6): self
    {
        foreach ($ticks as $tick) {
            $y = $this->y((float) $tick);
            $this->stroke('grid', $this->left, $y, $this->right, $y);
            // Nothing is nothing in any unit.
            $this->text($this->left - $gap, $y + 4, (float) $tick === 0.0 ? '0' : $format((float) $tick), 'tick', 'end');
        }

        return $this;
    }

    /**
     * Labels below, each at its value.
     *
     * @param  iterable<int|float|string, string>  $labels value => label
     * @param  int  $lift of their foot above that of the figure
     * @param  bool  $within whether the outermost are moved in, so that they are not cut off
     */
    public function along(iterable $labels, int $lift = 6, bool $within = false, bool $marks = false): self
    {
        foreach ($labels as $value => $label) {
            $x = $this->x((float) $value);
            if ($marks) {
                $this->stroke('grid', $x, $this->bottom, $x, $this->bottom + 4);
            }
            // Half of what it takes at most, by its letters.
            $half = self::LETTER / 2 * mb_strlen($label);
            $this->text($within ? min($this->width - $half, max($this->left + 14, $x)) : $x, $this->height - $lift, $label);
        }

        return $this;
    }

    /** What the axes count. */
    public function names(string $up, string $across): self
    {
        if ($up !== '') {
            $this->text($this->left, $this->top > 16 ? 12 : 10, $up, 'tick', '');
        }

        return $this->text($this->right, $this->height - 6, $across, 'tick', 'end');
    }

    /**
     * A line through values.
     *
     * @param  list<array{float, float}>  $points across, up
     */
    public function line(string $class, array $points): self
    {
        return $this->path($class, Svg::path(array_map(fn (array $point): array => [$this->x($point[0]), $this->y($point[1])], $points)));
    }

    /**
     * A line that is broken where a value is not known; one that stands alone is a dot.
     *
     * @param  list<array{float, float|null}>  $points across, up
     */
    public function broken(string $class, array $points): self
    {
        $d = $dots = '';
        $open = false;
        foreach ($points as $i => [$across, $up]) {
            if ($up === null) {
                $open = false;

                continue;
            }
            $x = Svg::number($this->x($across));
            $y = Svg::number($this->y($up));
            $d .= ($open ? 'L' : 'M')."{$x} {$y}";
            if (! $open && ($points[$i + 1][1] ?? null) === null) {
                $dots .= "<circle class=\"{$class} dot\" cx=\"{$x}\" cy=\"{$y}\" r=\"2.5\"/>";
            }
            $open = true;
        }

        return $this->add(($d === '' ? '' : "<path class=\"{$class}\" d=\"{$d}\"/>").$dots);
    }

    /**
     * Spans of which nothing is known.
     *
     * @param  list<array{int, int}>  $gaps where they begin and end, across
     */
    public function gaps(array $gaps, int $from, int $to): self
    {
        foreach ($gaps as [$began, $ended]) {
            $left = $this->x(max($from, $began));
            $this->box('gap', $left, $this->top, max(1.0, $this->x(min($to, $ended)) - $left), $this->bottom - $this->top);
        }

        return $this;
    }

    /** A path that is already in the measures of the drawing. */
    public function path(string $class, string $d): self
    {
        return $d === '' ? $this : $this->mark('path', ['class' => $class, 'd' => $d]);
    }

    /** A straight line that is already in the measures of the drawing. */
    public function stroke(string $class, float $x1, float $y1, float $x2, float $y2): self
    {
        return $this->mark('line', ['class' => $class, 'x1' => $x1, 'x2' => $x2, 'y1' => $y1, 'y2' => $y2]);
    }

    /** A limit for what goes up, with its name over its end. */
    public function limitAcross(float $value, string $name = '', ?float $from = null, ?float $to = null): self
    {
        $y = $this->y($value);
        $this->stroke('limit', $from ?? $this->left, $y, $to ?? $this->right, $y);

        return $name === '' ? $this : $this->text($this->right, $y - 5, $name, 'tick', 'end');
    }

    /** A limit for what goes across, with its name beside its head. */
    public function limitUp(float $value, string $name): self
    {
        $x = $this->x($value);
        $this->stroke('limit', $x, $this->top, $x, $this->bottom);

        // On the other side where it would be cut off.
        $fits = $x + 5 + self::LETTER * mb_strlen($name) <= $this->width;

        return $this->text($fits ? $x + 5 : $x - 5, $this->top + 10, $name, 'tick', $fits ? '' : 'end');
    }

    /**
     * What happened at moments, each with its name where that would not stand in another one.
     *
     * @param  array<int, string>  $marks place on the axis across => name, ascending
     */
    public function marks(array $marks): self
    {
        $free = $this->left;
        foreach ($marks as $at => $name) {
            $x = $this->x((float) $at);
            if ($x < $this->left || $x > $this->right) {
                continue;
            }
            $hasRoom = $x >= $free && $x + 5 + self::LETTER * mb_strlen($name) <= $this->width;
            $this->mark('line', ['class' => 'limit', 'x1' => $x, 'x2' => $x, 'y1' => $this->top, 'y2' => $this->bottom], $name);
            if ($hasRoom) {
                $this->text($x + 5, $this->top + 10, $name, 'tick', '');
                $free = $x + 10 + self::LETTER * mb_strlen($name);
            }
        }

        return $this;
    }

    public function dot(string $class, float $x, float $y, float $radius, string $said = ''): self
    {
        return $this->mark('circle', ['class' => $class, 'cx' => $x, 'cy' => $y, 'r' => $radius], $said);
    }

    public function box(string $class, float $x, float $y, float $width, float $height, string $said = '', ?string $href = null): self
    {
        $box = ['class' => $class, 'x' => $x, 'y' => $y, 'width' => $width, 'height' => $height];
        if ($href === null) {
            return $this->mark('rect', $box, $said);
        }
        $this->svg .= '<a href="'.Svg::escape($href).'">';
        $this->mark('rect', $box, $said);
        $this->svg .= '</a>';

        return $this;
    }

    /** An interval from top to bottom that says what it was like, and leads somewhere. */
    public function slice(float $from, float $to, string $said, ?string $href = null): self
    {
        $left = $this->x($from);
        // One tab stop a figure: its script goes from interval to interval.
        $this->svg .= $href === null ? '' : '<a tabindex="-1" href="'.Svg::escape($href).'" aria-label="'.Svg::escape($said).'">';
        $this->box('slice', $left, $this->top, $this->x($to) - $left, $this->bottom - $this->top, $said);

        return $href === null ? $this : $this->add('</a>');
    }

    /**
     * @param  string  $anchor start, middle or end; empty where it begins at its place
     */
    public function text(float $x, float $y, string $text, string $class = 'tick', string $anchor = 'middle'): self
    {
        $this->svg .= "<text class=\"{$class}\" x=\"".Svg::number($x).'" y="'.Svg::number($y).'"'.
            ($anchor === '' ? '' : " text-anchor=\"{$anchor}\"").'>'.Svg::escape($text).'</text>';

        return $this;
    }

    /**
     * A hatch marks may be filled with, by url(#id).
     *
     * @param  string  $class of its lines
     * @param  int  $apart of them, in the measures of the drawing
     */
    public function hatch(string $id, string $class, int $apart = 7): self
    {
        return $this->add("<defs><pattern id=\"{$id}\" width=\"{$apart}\" height=\"{$apart}\" patternUnits=\"userSpaceOnUse\" "
            ."patternTransform=\"rotate(45)\"><path class=\"{$class}\" d=\"M0 0V{$apart}\"/></pattern></defs>");
    }

    /** A shape of a figure's own. */
    public function add(string $svg): self
    {
        $this->svg .= $svg;

        return $this;
    }

    /**
     * @param  string  $how how the figures come about, and from how many samples
     * @param  list<string>  $head
     * @param  list<list<string>>  $rows the same as a table
     */
    public function figure(string $how, array $head, array $rows, ?TimePlot $plot = null): Figure
    {
        return new Figure($this->drawing(), $this->summary, $how, $head, $rows, $plot);
    }

    public function drawing(): string
    {
        $role = $this->links ? 'group' : 'img';

        return "<svg class=\"figure-svg{$this->class}\" viewBox=\"0 0 {$this->width} {$this->height}\" role=\"{$role}\" ".
            "aria-labelledby=\"{$this->id}-title {$this->id}-desc\"><title id=\"{$this->id}-title\">".Svg::escape($this->title).
            "</title><desc id=\"{$this->id}-desc\">".Svg::escape($this->summary)."</desc>{$this->svg}</svg>";
    }

    /**
     * @param  array<string, string|float|int>  $attributes
     */
    private function mark(string $tag, array $attributes, string $said = ''): self
    {
        $this->svg .= "<{$tag}";
        foreach ($attributes as $name => $value) {
            $this->svg .= " {$name}=\"".(is_string($value) ? Svg::escape($value) : Svg::number((float) $value)).'"';
        }
        $this->svg .= $said === '' ? '/>' : '><title>'.Svg::escape($said)."</title></{$tag}>";

        return $this;
    }
}
