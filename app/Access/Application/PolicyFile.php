<?php

declare(strict_types=1);

namespace App\Access\Application;

use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Policy\PolicyProblem;
use Symfony\Component\Yaml\Exception\ParseException;
use Symfony\Component\Yaml\Yaml;

/**
 * Whole policies as files. The same policy is always the same text, so that two can be compared line by line.
 */
final readonly class PolicyFile
{
    public const FORMATS = ['yaml', 'json'];

    public static function write(Document $document, string $format): string
    {
        // An item without fields is an empty map, not an empty list.
        $data = array_map(
            static fn (mixed $section): mixed => is_array($section)
                ? array_map(static fn (mixed $item): mixed => $item === [] ? (object) [] : $item, $section)
                : $section,
            $document->toArray(),
        );

        return $format === 'json'
            ? json_encode($data, JSON_PRETTY_PRINT | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR)."\n"
            : Yaml::dump($data, 4, 2, Yaml::DUMP_OBJECT_AS_MAP | Yaml::DUMP_EMPTY_ARRAY_AS_SEQUENCE);
    }

    /**
     * @return Document|list<string> what is wrong, each with its line
     */
    public static function read(string $text): Document|array
    {
        try {
            // JSON is YAML as well, but its own reader is stricter and faster.
            $data = str_starts_with(ltrim($text), '{')
                ? json_decode($text, true, 64, JSON_THROW_ON_ERROR)
                : Yaml::parse($text, Yaml::PARSE_EXCEPTION_ON_INVALID_TYPE);
        } catch (ParseException $error) {
            return ['Line '.max(1, $error->getParsedLine()).': '.$error->getMessage()];
        } catch (\JsonException $error) {
            return ['This is no JSON: '.$error->getMessage().'.'];
        }
        if (! is_array($data)) {
            return ['Line 1: a policy is a map of sections, such as people, roles and grants.'];
        }
        $document = Document::read($data);

        return $document instanceof Document
            ? $document
            : array_map(static fn (PolicyProblem $problem): string => 'Line '.self::line($text, $problem).': '.$problem, $document);
    }

    /** The line an item, or a field of it, stands in. */
    public static function line(string $text, PolicyProblem $problem): int
    {
        $section = $item = 0;
        foreach (explode("\n", $text) as $i => $line) {
            $bare = trim($line, " \t\r,{");
            if ($section === 0 && preg_match('~^"?'.preg_quote($problem->kind->value, '~').'"?\s*:~', $bare) === 1) {
                $section = $i + 1;
            } elseif (
                $section > 0 &&
                $item === 0 &&
                preg_match('~^[\'"]?'.preg_quote($problem->name, '~').'[\'"]?\s*:~', $bare) === 1
            ) {
                $item = $i + 1;
            } elseif (
                $item > 0 &&
                $problem->field !== '' &&
                preg_match('~^"?'.preg_quote($problem->field, '~').'"?\s*:~', $bare) === 1
            ) {
                return $i + 1;
            }
        }

        return $item > 0 ? $item : max(1, $section);
    }
}
