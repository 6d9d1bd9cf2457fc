<?php

declare(strict_types=1);

namespace Fulcrion\Core\Settings;

/**
 * The settings of all hosts of a cluster, held against what is desired and against each other.
 */
final readonly class SettingTable
{
    /** Hosts below which nobody is unlike the others. */
    private const LEAST_HOSTS = 4;

    /** Part of the hosts that have to have one value before others are unlike them. */
    private const MOST_HAVE = 0.75;

    /**
     * @param  list<string>  $hosts
     * @param  list<SettingRow>  $rows those that are desired first, each part by name
     */
    private function __construct(public array $hosts, public array $rows)
    {
    }

    /**
     * @param  array<string, array<string, string|null>>  $actual by host, by setting
     */
    public static function of(?SettingsProfile $profile, array $actual): self
    {
        ksort($actual, SORT_NATURAL);
        $names = [];
        foreach ($actual as $settings) {
            $names += $settings;
        }
        $rows = [];
        foreach (array_keys($names) as $name) {
            $desired = $profile?->of($name);
            $values = array_map(static fn (array $settings): ?string => $settings[$name] ?? null, $actual);
            $rows[] = new SettingRow($name, $desired, $values, $desired === null ? self::beside($values)
                : self::against($desired, $values, array_map(static fn (array $all): bool => array_key_exists($name, $all), $actual)));
        }
        usort($rows, static fn (SettingRow $a, SettingRow $b): int => [$a->desired === null, $a->name] <=> [$b->desired === null,
            $b->name]);

        return new self(array_map(strval(...), array_keys($actual)), $rows);
    }

    /**
     * @return array<string, non-empty-list<SettingRow>> what is not as desired, by host
     */
    public function drift(): array
    {
        $drift = [];
        foreach ($this->rows as $row) {
            foreach ($row->states as $host => $state) {
                if ($state->isTrouble()) {
                    $drift[$host][] = $row;
                }
            }
        }
        uksort($drift, strnatcmp(...));

        return $drift;
    }

    /**
     * A disk or a mount is told by those that have it; who lacks it has nothing to set.
     *
     * @param  array<string, string|null>  $values
     * @param  array<string, bool>  $told
     * @return array<string, SettingState>
     */
    private static function against(DesiredSetting $desired, array $values, array $told): array
    {
        $states = [];
        foreach ($values as $host => $value) {
            if ($value !== null) {
                $states[$host] = $desired->holds($value) ? SettingState::Desired : SettingState::Differs;
            } elseif ($told[$host] ?? false) {
                $states[$host] = SettingState::Unread;
            }
        }

        return $states;
    }

    /**
     * @param  array<string, string|null>  $values
     * @return array<string, SettingState>
     */
    private static function beside(array $values): array
    {
        $known = array_filter($values, static fn (?string $value): bool => $value !== null);
        $counts = array_count_values($known);
        arsort($counts);
        $most = (string) array_key_first($counts);
        $isJudged = count($known) >= self::LEAST_HOSTS && $counts !== [] && max($counts) >= self::MOST_HAVE * count($known);

        return array_map(
            static fn (string $value): SettingState => $isJudged && $value !== $most ? SettingState::Odd : SettingState::Alike,
            $known,
        );
    }
}
