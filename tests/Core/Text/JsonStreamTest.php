<?php

declare(strict_types=1);

namespace Tests\Core\Text;

use Fulcrion\Core\Text\JsonError;
use Fulcrion\Core\Text\JsonStream;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * JSON read in pieces, against the language's own reader of the whole.
 */
final class JsonStreamTest extends TestCase
{
    public function test_whatever_is_cut_where_it_is_the_same_comes_out(): void
    {
        $random = new Randomizer(new Mt19937(17));
        for ($world = 0; $world < 300; $world++) {
            $value = self::value($random, 3);
            $text = (string) json_encode($value, $random->getInt(0, 1) === 1 ? JSON_PRETTY_PRINT : 0);
            $pieces = [];
            for ($at = 0; $at < strlen($text);) {
                $length = $random->getInt(1, $random->getInt(0, 1) === 1 ? 3 : 40);
                $pieces[] = substr($text, $at, $length);
                $at += $length;
            }
            self::assertEquals([['', json_decode($text, true)]], self::read($pieces, []), $text);
        }
    }

    public function test_members_of_open_places_come_one_by_one(): void
    {
        $random = new Randomizer(new Mt19937(18));
        for ($world = 0; $world < 150; $world++) {
            $items = array_map(static fn (): mixed => self::value($random, 2), range(0, $random->getInt(0, 5)));
            $groups = array_map(
                static fn (): array => ['id' => $random->getInt(0, 9), 'tasks' => array_map(
                    static fn (): mixed => self::value($random, 1),
                    $random->getInt(0, 1) === 1 ? [] : range(0, $random->getInt(0, 3)),
                )],
                range(0, $random->getInt(0, 3)),
            );
            $text = (string) json_encode(['head' => 'x', 'items' => $items, 'groups' => $groups, 'tail' => null]);
            $expected = [['head', 'x']];
            foreach ($items as $item) {
                $expected[] = ['items[]', json_decode((string) json_encode($item), true)];
            }
            foreach ($groups as $group) {
                $expected[] = ['groups[].id', $group['id']];
                foreach ($group['tasks'] as $task) {
                    $expected[] = ['groups[].tasks[]', json_decode((string) json_encode($task), true)];
                }
            }
            $expected[] = ['tail', null];
            self::assertEquals(
                $expected,
                self::read(str_split($text, $random->getInt(1, 9)), ['', 'items', 'groups', 'groups[]', 'groups[].tasks']),
                $text,
            );
        }
    }

    public function test_documents_may_lie_one_behind_the_other(): void
    {
        foreach (['{"a":1}{"a":2}', "{\"a\":1}\n{\"a\":2}\n", " {\"a\":1}\r\n\r\n\t{\"a\":2} "] as $text) {
            self::assertSame([['', ['a' => 1]], ['', ['a' => 2]]], self::read(str_split($text), []), $text);
            self::assertSame([['a', 1], ['a', 2]], self::read([$text], ['']), $text);
        }
        self::assertSame([], self::read([], []));
        self::assertSame([], self::read([" \n "], []));
        self::assertSame([['', 12], ['', 3]], self::read(['1', '2 3'], []), 'a number may go on in the next piece');
        self::assertSame([['', '12345678901234567890']], self::read(['12345678901234567890'], []), 'more than fits stays as its digits');
    }

    /**
     * @return iterable<string, array{string, list<string>, string, int}> text, open places, part of the message, line
     */
    public static function broken(): iterable
    {
        yield 'an end in the middle' => ['{"a": [1, 2', [''], 'is no JSON, or ends in the middle: [1, 2', 1];
        yield 'an end after a comma' => ["{\"a\": 1,\n", [''], 'the text ends in the middle', 2];
        yield 'an end before a colon' => ['{"a"', [''], 'the text ends where ":" was expected', 1];
        yield 'no comma' => ["{\n\"a\": 1\n\"b\": 2}", [''], '"," was expected, not """', 3];
        yield 'a name without quotes' => ['{a: 1}', [''], 'is no JSON, or ends in the middle: a: 1}', 1];
        yield 'a number as name' => ['{1: 1}', [''], 'a name in quotes was expected', 1];
        yield 'a word that is none' => ["[1,\n2,\nnone]", [''], 'is no JSON, or ends in the middle: none]', 3];
        yield 'two signs' => ['[--1]', [''], 'is no JSON: --1', 1];
        yield 'a text without end' => ['["abc', [''], 'is no JSON, or ends in the middle: "abc', 1];
        yield 'the wrong bracket' => ['{"a": [1}', ['', 'a'], '"," was expected, not "}"', 1];
        yield 'bytes that are no text' => ["[\"\xff\"]", [''], 'is no JSON: ', 1];
        yield 'a broken list inside' => ['[[1,,2]]', [''], 'is no JSON: [1,,2]', 1];
    }

    /**
     * @param  list<string>  $open
     */
    #[DataProvider('broken')]
    public function test_what_is_broken_is_told_with_its_line(string $text, array $open, string $message, int $line): void
    {
        foreach ([[$text], str_split($text)] as $pieces) {
            try {
                self::read($pieces, $open);
                self::fail($text);
            } catch (JsonError $error) {
                self::assertStringContainsString($message, $error->getMessage());
                self::assertSame($line, $error->textLine);
            }
        }
    }

    private static function value(Randomizer $random, int $depth): mixed
    {
        $kind = $random->getInt(0, $depth === 0 ? 5 : 8);

        return match ($kind) {
            0 => $random->getInt(-1_000, 1_000),
            1 => $random->getInt(-1_000, 1_000) / 8,
            2 => null,
            3 => $random->getInt(0, 1) === 1,
            4, 5 => implode('', array_map(
                static fn (): string => ['a', '"', '\\', '{', ']', ',', ':', "\n", 'ä', '𝄞', ' ', '/'][$random->getInt(0, 11)],
                range(0, $random->getInt(0, 6)),
            )),
            6, 7 => array_map(static fn (): mixed => self::value($random, $depth - 1), range(0, $random->getInt(0, 3))),
            default => [
                'k'.$random->getInt(0, 9) => self::value($random, $depth - 1),
                '" }'.$random->getInt(0, 9) => self::value($random, $depth - 1),
            ],
        };
    }

    /**
     * @param  list<string>  $pieces
     * @param  list<string>  $open
     * @return list<array{string, mixed}> place and value
     */
    private static function read(array $pieces, array $open): array
    {
        $found = [];
        $stream = new JsonStream(static function () use (&$pieces): string {
            return (string) array_shift($pieces);
        }, $open);
        foreach ($stream->values() as $place => $value) {
            $found[] = [$place, $value];
        }

        return $found;
    }
}
