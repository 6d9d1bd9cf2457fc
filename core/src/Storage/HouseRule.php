<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * A best practice tables are held against.
 */
interface HouseRule
{
    /** Short name, for filters and settings. */
    public function id(): string;

    public function title(): string;

    /** Why it matters, in one sentence. */
    public function reason(): string;

    /**
     * The page of guidance.
     *
     * @return list<string> paragraphs
     */
    public function guidance(): array;

    /**
     * What can be changed per cluster.
     *
     * @return array<string, array{float, string}> name => default, what it means with its unit
     */
    public function thresholds(): array;

    /**
     * @param  array<string, float>  $thresholds
     * @return list<LayoutFinding>
     */
    public function check(TableCase $case, array $thresholds): array;
}
