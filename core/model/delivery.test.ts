import { ASPECTS, deliveredRetime, deliverySchema, framing, nameFrom, type DeliveryRequest } from './delivery';

const of = (request: Partial<DeliveryRequest>) => deliverySchema.parse({ codec: 'h264', ...request });
const UHD = { width: 3840, height: 2160 };

describe('what of a picture is taken, and at which size', () => {
  test.each<[string, { width: number; height: number }, Partial<DeliveryRequest>, [number, number]]>([
    ['as it is', UHD, {}, [3840, 2160]],
    ['an odd size as it is', { width: 405, height: 121 }, {}, [405, 121]],
    ['half the lines', UHD, { lines: 1080 }, [1920, 1080]],
    ['never up by itself', { width: 1280, height: 720 }, { lines: 1080 }, [1280, 720]],
    ['up when that is said', { width: 1280, height: 720 }, { lines: 1080, enlarge: true }, [1920, 1080]],
    ['upright: the shorter side counts', { width: 2160, height: 3840 }, { lines: 1080 }, [1080, 1920]],
    ['for a phone, cut', UHD, { aspect: '9:16', lines: 1080 }, [1080, 1920]],
    ['for a phone, between bars', UHD, { aspect: '9:16', fit: 'bars', lines: 1080 }, [1080, 1920]],
    ['square', UHD, { aspect: '1:1' }, [2160, 2160]],
    ['its own shape', UHD, { aspect: '16:9' }, [3840, 2160]],
    // 818 lines: common practice for 2.35 : 1 at 1920 wide.
    ['for a wide screen, cut', { width: 1920, height: 1080 }, { aspect: '2.35:1' }, [1920, 818]],
    ['for a wide screen, with bars in its own shape', UHD, { aspect: '2.39:1', fit: 'inside' }, [3840, 2160]],
    ['the same, smaller', UHD, { aspect: '2.39:1', fit: 'inside', lines: 1080 }, [1920, 1080]],
    ['odd, and another shape', { width: 405, height: 121 }, { aspect: '16:9' }, [216, 122]],
  ])('%s', (_what, size, request, [width, height]) => {
    const found = framing(size, of(request));
    expect([found.width, found.height]).toEqual([width, height]);
    const { crop, scaled } = found;
    expect(crop.x + crop.width).toBeLessThanOrEqual(size.width);
    expect(crop.y + crop.height).toBeLessThanOrEqual(size.height);
    // The picture is not stretched.
    expect(Math.abs(scaled.width / scaled.height / (crop.width / crop.height) - 1)).toBeLessThan(0.03);
  });
  test('a cut lies where it is wanted, inside the picture', () => {
    const at = (place: number) => framing(UHD, of({ aspect: '9:16', place })).crop;
    expect(at(0).x).toBe(0);
    expect(at(1).x + at(1).width).toBe(3840);
    expect(at(0.5).x + at(0.5).width / 2).toBeCloseTo(1920, -1);
  });
  test('cut to a shape without another size, nothing is scaled', () => {
    for (const aspect of ASPECTS)
      for (const size of [UHD, { width: 1920, height: 1080 }, { width: 2704, height: 1520 }]) {
        const { crop, scaled } = framing(size, of({ aspect }));
        expect([scaled.width, scaled.height]).toEqual([crop.width, crop.height]);
      }
  });
  test('cut, with bars: the part has the shape, the file its own', () => {
    const { crop, scaled, width, height } = framing(
      UHD,
      of({ aspect: '2.35:1', fit: 'inside', lines: 1080, place: 0 }),
    );
    expect([crop.width, crop.y, scaled.width, scaled.height, width, height]).toEqual([3840, 0, 1920, 818, 1920, 1080]);
  });
  test('between bars the whole picture is there', () => {
    const { crop, scaled, width } = framing(UHD, of({ aspect: '1:1', fit: 'bars', lines: 720 }));
    expect(crop).toMatchObject(UHD);
    expect([scaled.width, scaled.height, width]).toEqual([720, 406, 720]);
  });
});

describe('names', () => {
  const parts = {
    clip: 'reef',
    camera: 'Dive',
    outing: 'Bay',
    day: '2031-06-14',
    n: '03',
    lines: '1080',
    codec: 'h264',
  };
  test('parts in braces', () => expect(nameFrom('{n} {clip} – {lines}', parts)).toBe('03 reef – 1080'));
  test('a part that stands for nothing is refused', () =>
    expect(() => of({ name: '{clip} {author}' })).toThrow(/\{author\} stands for nothing/));
  test('what stands in a clip’s name is not a part', () =>
    expect(nameFrom('{clip}', { ...parts, clip: '{n}$&' })).toBe('{n}$&'));
});

describe('speed, with what a delivery says', () => {
  test('as recorded: nothing', () => expect(deliveredRetime(null, of({}))).toBeUndefined());
  test('another rate alone', () =>
    expect(deliveredRetime(null, of({ rate: { num: 25, den: 1 } }))).toMatchObject({ factor: 1, rate: { num: 25 } }));
  test('the clip’s own speed stays', () =>
    expect(
      deliveredRetime({ factor: 0.5, rate: null, between: 'blended', sound: 'follows' }, of({ sound: 'off' })),
    ).toEqual({ factor: 0.5, rate: null, between: 'blended', sound: 'goes' }));
});
