export default function Page() { return <p>hello</p>; }
